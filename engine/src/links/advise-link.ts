import { statSync, type Dirent } from 'node:fs';
import { dataFiles, DEFAULT_NAMING, placeNamed, proposeName, type Place, joined } from '@rootmap/core';
import type { LinkAdvice, PathRequest } from '@rootmap/core/contract';
import { dirname, join, basename, isBelow, isInside } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import { diskSentence } from '../disk/disk-problem.js';
import { pathOf } from '../places/places.js';
import { linkLocations, locationOf, type Scope } from '../project/scope.js';

/** Counting ends after this long; what is known by then is told as a part. */
const MOST_MS = 1500;
const MOST_BETTER = 6;

/**
 * What linking a folder would cost and what would serve better: the parent, where a second folder beside a linked one is
 * asked for (the next will be, too), or a part, where it is a whole place.
 */
export function adviseLink(scope: Scope, folder: string): LinkAdvice {
  const at = (path: string): PathRequest => {
    const { place, segments } = locationOf(path, scope.places);
    return { place, path: joined(segments) };
  };
  const place = placeNamed(scope.places, locationOf(folder, scope.places).place)!;
  const links = linkLocations(scope).flatMap((l) => {
    const own = placeNamed(scope.places, l.location.place);
    return own ? [{ name: l.name, path: join(pathOf(own), ...l.location.segments) }] : [];
  });
  const count = countBelow(folder);
  const isWholePlace = folder === pathOf(place);
  return {
    inside: links.find((l) => isInside(l.path, folder))?.name ?? null,
    parent: parentFor(folder, links, place, at),
    ...count.all,
    isWholePlace,
    better: isWholePlace
      ? [...count.byChild]
          .filter(([, files]) => files > 0)
          .sort((a, b) => b[1] - a[1])
          .slice(0, MOST_BETTER)
          .map(([name, files]) => ({ at: at(join(folder, name)), files }))
      : [],
    proposedName: proposeName(isWholePlace ? place.name : basename(folder), DEFAULT_NAMING),
  };
}

function parentFor(
  folder: string,
  links: readonly { readonly name: string; readonly path: string }[],
  place: Place,
  at: (path: string) => PathRequest,
): LinkAdvice['parent'] {
  const around = links.filter((l) => isBelow(folder, l.path));
  if (around.length > 0) return { at: at(folder), replaces: around.map((l) => l.name) };
  const parent = dirname(folder);
  const siblings = links.filter((l) => l.path !== folder && dirname(l.path) === parent);
  return siblings.length > 0 && parent !== pathOf(place) && parent.startsWith(pathOf(place))
    ? { at: at(parent), replaces: siblings.map((l) => l.name) }
    : null;
}

interface Count {
  readonly all: Pick<LinkAdvice, 'files' | 'folders' | 'bytes' | 'milliseconds' | 'isPartial'>;
  /** Files that may be data, by the name of the folder below. */
  readonly byChild: ReadonlyMap<string, number>;
}

function countBelow(folder: string): Count {
  const started = performance.now();
  const byChild = new Map<string, number>();
  const waiting: { path: string; child: string }[] = [{ path: folder, child: '' }];
  let [files, folders, bytes] = [0, 0, 0];
  while (waiting.length > 0 && performance.now() - started < MOST_MS) {
    const { path, child } = waiting.shift()!;
    folders++;
    const entries = entriesOf(path);
    const names = entries.filter((e) => e.isFile()).map((e) => e.name);
    files += names.length;
    for (const name of dataFiles(names)) {
      bytes += statSync(join(path, name), { throwIfNoEntry: false })?.size ?? 0;
      if (child !== '') byChild.set(child, (byChild.get(child) ?? 0) + 1);
    }
    for (const e of entries)
      if (e.isDirectory() && !e.name.startsWith('.')) waiting.push({ path: join(path, e.name), child: child || e.name });
  }
  const milliseconds = performance.now() - started;
  return { all: { files, folders: folders - 1, bytes, milliseconds, isPartial: waiting.length > 0 }, byChild };
}

function entriesOf(folder: string): Dirent[] {
  try {
    return readdirSync(folder, { withFileTypes: true });
  } catch (error) {
    if (diskSentence(error) === null) throw error;
    return []; // it may not be opened: nothing in it would be seen either
  }
}
