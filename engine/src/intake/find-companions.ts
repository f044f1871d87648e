import { statSync } from 'node:fs';
import { splitName, type Place } from '@rootmap/core';
import type { IntakeView, PathRequest } from '@rootmap/core/contract';
import { basename, join, isBelow } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import { isPlaceholder } from '../disk/placeholder.js';
import { pathOf } from '../places/places.js';

/** Folders that people's downloads land in, and how deep below a place they are looked for. */
const DOWNLOADS = /^(downloads?|received|arrivals|inbox)$/i;
const DEPTH = 2;
const MOST_FOLDERS = 400;

interface Looked {
  readonly path: string;
  readonly format: string;
  readonly files: readonly string[];
}
/** What a shapefile cannot be read without. */
const NEEDED: readonly string[] = ['.shx', '.dbf'];

/**
 * Where companions stand that datasets lack: beside them, and in the folders that downloads land in, by the same stem. Only
 * names are looked at.
 * @param besides real folders to look in first
 */
export function findCompanions(looked: readonly Looked[], besides: readonly string[], places: readonly Place[]): IntakeView['elsewhere'] {
  const wanted = looked
    .filter((g) => g.format === 'shapefile')
    .flatMap((g) =>
      NEEDED.filter((e) => !g.files.some((f) => f.toLowerCase().endsWith(e))).map((ending) => ({ stem: stemOf(g.path), ending })),
    );
  if (wanted.length === 0) return [];
  const folders = [...new Set([...besides, ...places.filter((p) => p.present).flatMap((p) => downloadsIn(pathOf(p), DEPTH))])].slice(
    0,
    MOST_FOLDERS,
  );
  const found: { missing: string; at: PathRequest }[] = [];
  for (const folder of folders)
    for (const name of namesIn(folder)) {
      const { stem, ending } = splitName(name);
      const match = wanted.find((w) => w.stem === stem.toLowerCase() && w.ending === ending.toLowerCase());
      const at = match && placed(join(folder, name), places);
      if (at && !found.some((f) => f.missing === match.stem + match.ending)) found.push({ missing: match.stem + match.ending, at });
    }
  return found;
}

const stemOf = (path: string): string => splitName(basename(path)).stem.toLowerCase();

function namesIn(folder: string): string[] {
  try {
    return readdirSync(folder);
  } catch {
    return []; // it is not to be read: nothing is found there
  }
}

function downloadsIn(folder: string, depth: number): string[] {
  if (depth === 0) return [];
  return namesIn(folder).flatMap((name): string[] => {
    const path = join(folder, name);
    if (name.startsWith('.') || !statSync(path, { throwIfNoEntry: false })?.isDirectory()) return [];
    if (DOWNLOADS.test(name))
      return [
        path,
        ...namesIn(path)
          .map((n) => join(path, n))
          .filter((p) => statSync(p, { throwIfNoEntry: false })?.isDirectory()),
      ];
    return downloadsIn(path, depth - 1);
  });
}

function placed(path: string, places: readonly Place[]): PathRequest | null {
  const stat = statSync(path, { throwIfNoEntry: false });
  if (!stat?.isFile() || isPlaceholder(stat)) return null;
  const place = places.filter((p) => isBelow(pathOf(p), path)).sort((a, b) => pathOf(b).length - pathOf(a).length)[0];
  return place ? { place: place.name, path: path.slice(pathOf(place).length + 1) } : null;
}
