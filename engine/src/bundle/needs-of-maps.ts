import { statSync } from 'node:fs';
import { isOpaqueFolder, parseReference, picturesOfStyle, placeNamed, styleOf, type FileEntry, type FileGroup } from '@rootmap/core';
import { realPath } from '../disk/real-path.js';
import { below, dirname, join } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import { groupAt } from '../project/find-dataset.js';
import { pathOfReference, readStyleFile } from '../project/layer-styles.js';
import type { LayerSeen, MapSeen } from '../project/read-maps.js';
import type { RootedScope } from '../project/scope.js';
import { pathOf } from '../places/places.js';
import { listFiles } from '../survey/list-files.js';
import type { LeftOut, Use } from './bundle-file.js';

/** One thing outside the root that a layer needs: its main file first, with all that belongs to it. */
export interface OutsideThing {
  /** Real path of the main file: it names the thing. */
  readonly main: string;
  readonly kind: 'data' | 'style' | 'picture';
  /** Real paths. */
  readonly files: readonly FileEntry[];
  readonly uses: readonly Use[];
}

export interface Needs {
  /** By path from the root. */
  readonly inside: ReadonlyMap<string, readonly Use[]>;
  readonly outside: readonly OutsideThing[];
  readonly services: readonly { readonly title: string; readonly address: string; readonly map: string }[];
  /** What layers name and nothing stands at. */
  readonly lost: readonly LeftOut[];
}

/** The files that maps need: data with its companions, style files, the pictures that styles name. */
export function needsOfMaps(maps: readonly MapSeen[], groupInside: (path: string) => FileGroup | undefined, scope: RootedScope): Needs {
  return new Needing(groupInside, scope).of(maps);
}

class Needing {
  private readonly inside = new Map<string, Use[]>();
  private readonly outside = new Map<string, { kind: OutsideThing['kind']; files: readonly FileEntry[]; uses: Use[] }>();
  private readonly services: Needs['services'][number][] = [];
  private readonly lost: LeftOut[] = [];

  constructor(
    private readonly groupInside: (path: string) => FileGroup | undefined,
    private readonly scope: RootedScope,
  ) {}

  of(maps: readonly MapSeen[]): Needs {
    for (const map of maps)
      for (const seen of map.layers) {
        this.data(map, seen);
        this.styles(map, seen);
      }
    return {
      inside: this.inside,
      outside: [...this.outside].map(([main, thing]) => ({ main, ...thing })),
      services: this.services,
      lost: this.lost,
    };
  }

  private data(map: MapSeen, { layer, judgement: j }: LayerSeen): void {
    const use: Use = { map: map.path, layer: layer.title, id: layer.id };
    if (j.reach === 'service') {
      this.services.push({ title: layer.title, address: layer.reference!.href, map: map.path });
      return;
    }
    const place = j.location && placeNamed(this.scope.places, j.location.place);
    const path = j.location && place?.present ? realOrNull(join(pathOf(place), ...(j.spelled ?? j.location.segments))) : null;
    if (path === null) {
      const why =
        j.state === 'absent' ? `the place of the data of "${layer.title}" is not here` : `the data of "${layer.title}" was not found`;
      this.lost.push({ path: j.resolved ?? layer.reference?.href ?? layer.title, why });
    } else this.add(path, 'data', use);
    for (const other of layer.others.filter((r) => r.role === 'content')) {
      const at = pathOfReference(other.href, map.location, this.scope);
      const real = at && realOrNull(at.path);
      if (real !== null) this.add(real, 'data', use);
    }
  }

  private styles(map: MapSeen, { layer }: LayerSeen): void {
    const use: Use = { map: map.path, layer: layer.title, id: layer.id };
    for (const reference of layer.others.filter((r) => r.role === 'style')) {
      const parsed = parseReference(reference.href);
      if (parsed.ok && parsed.value.kind === 'service') continue;
      const at = pathOfReference(reference.href, map.location, this.scope);
      const real = at && realOrNull(at.path);
      if (real === null || readStyleFile(real) === null)
        this.lost.push({ path: reference.href, why: `the style of "${layer.title}" in ${map.file.title} was not found` });
      else this.add(real, 'style', use);
    }
    const style = styleOf(layer);
    const file = style.kind === 'file' ? pathOfReference(style.href, map.location, this.scope) : null;
    const text = style.kind === 'inline' ? style.text : ((file && readStyleFile(file.path)) ?? '');
    for (const { href } of picturesOfStyle(text)) {
      if (/^(https?|data):/i.test(href)) continue;
      const at = pathOfReference(href, file?.location ?? map.location, this.scope);
      const real = at && realOrNull(at.path);
      if (real === null)
        this.lost.push({ path: href, why: `a picture in the style of "${layer.title}" in ${map.file.title} was not found` });
      else this.add(real, 'picture', use);
    }
  }

  private add(path: string, kind: OutsideThing['kind'], use: Use): void {
    const shown = below(this.scope.root, path);
    if (shown !== null) {
      const group = kind === 'data' ? this.groupInside(shown) : undefined;
      for (const file of group ? filesOf(group) : [{ path: shown }]) note(this.inside, file.path, use);
      return;
    }
    const known = this.outside.get(path);
    if (!known) this.outside.set(path, { kind, files: filesAt(path, kind), uses: [use] });
    else if (!known.uses.some((u) => u.map === use.map && u.id === use.id)) known.uses.push(use);
  }
}

/** The real path of what stands there; null: nothing does, or it may not be looked at. */
export function realOrNull(path: string): string | null {
  try {
    return statSync(path, { throwIfNoEntry: false }) ? realPath(path) : null;
  } catch {
    return null; // told as not found: the layer's own state says why
  }
}

function note(uses: Map<string, Use[]>, path: string, use: Use): void {
  const known = uses.get(path);
  if (!known) uses.set(path, [use]);
  else if (!known.some((u) => u.map === use.map && u.id === use.id)) known.push(use);
}

/** The files of a group, the main one first; an opaque folder is all of its files. */
export const filesOf = (group: FileGroup): FileEntry[] =>
  group.format === 'opaque' ? [...group.companions] : [group.main, ...group.companions, ...group.borrowed];

function filesAt(path: string, kind: OutsideThing['kind']): FileEntry[] {
  const stat = statSync(path);
  if (stat.isDirectory()) {
    if (!isOpaqueFolder(readdirSync(path))) return [];
    return listFiles(path, { confinedTo: path }).files.map((f) => ({ ...f, path: join(path, f.path) }));
  }
  const folder = dirname(path);
  const group = kind === 'data' ? groupAt(folder, path) : undefined;
  if (!group) return [{ path, bytes: stat.size, modifiedMs: stat.mtimeMs }];
  return filesOf(group).map((f) => ({ ...f, path: join(folder, f.path) }));
}
