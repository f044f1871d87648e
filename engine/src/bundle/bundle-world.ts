import {
  address,
  joined,
  judgeLayer,
  must,
  nameOf,
  parseMapFile,
  partsOf,
  standsIn,
  type Found,
  type Judgement,
  type Location,
  type MapFile,
  type Place,
} from '@rootmap/core';
import { dirname, join } from '../disk/native-path.js';
import type { Looker } from '../survey/look.js';
import { locationOf, type RootedScope } from '../project/scope.js';
import { groupAt } from '../project/find-dataset.js';
import type { BundleFile } from './bundle-file.js';
import type { GatheredTable } from './gather.js';
import { filesOf } from './needs-of-maps.js';

/** Where a bundle is rehearsed: a folder of another name, on a machine on which nothing else is. */
const ELSEWHERE: Place = {
  name: 'another machine',
  root: address('posix', '/', ['another-machine', 'unpacked_here']),
  driveNames: [],
  present: true,
  ignoresCase: false,
  readOnly: false,
};
const at = (path: string): Location => ({ place: ELSEWHERE.name, segments: path === '' ? [] : partsOf(path) });

export interface LayerElsewhere {
  /** The map's path in the bundle. */
  readonly map: string;
  readonly layer: string;
  readonly judgement: Judgement;
}

/**
 * The layers of a bundle's maps as they are where nothing but the bundle is: each map is read as it goes in, and judged by
 * the function that judges layers everywhere. Only paths that are in the bundle, letter by letter, are found.
 */
export class BundleWorld {
  private readonly files: ReadonlyMap<string, BundleFile>;
  constructor(
    files: readonly BundleFile[],
    private readonly scope: RootedScope,
    private readonly looker: Looker,
    private readonly gathered: { readonly path: string; readonly tables: readonly GatheredTable[] } | null,
  ) {
    this.files = new Map(files.map((f) => [f.to, f]));
  }

  /** @param needs fields that each layer's styles need, in files too, by the layer's position */
  layersOf(path: string, text: string, needs: readonly (readonly string[])[]): LayerElsewhere[] {
    const file: MapFile = must(parseMapFile(path, text));
    const here = at(path);
    const surroundings = { places: [ELSEWHERE], root: at(''), links: [], look: (l: Location, t: string | null) => this.look(l, t) };
    return file.layers.map((bare) => {
      const layer = { ...bare, needs: needs[bare.index] ?? bare.needs };
      return { map: path, layer: layer.id, judgement: judgeLayer(here, layer, surroundings) };
    });
  }

  private look(location: Location, table: string | null): Found {
    const path = joined(location.segments);
    if (path === this.gathered?.path) return this.lookGathered(this.gathered.tables, table);
    const file = this.files.get(path);
    const source = file ? file.source : this.folderOf(path);
    if (source === null) return { kind: 'nothing' };
    const { found } = this.looker.look(locationOf(source, this.scope.places), table);
    if (found.kind !== 'dataset') return found;
    const lacking = file ? this.lacking(file) : null;
    return { ...found, spelled: null, realLocation: null, incomplete: found.incomplete ?? lacking };
  }

  /** A table that is not made yet is as what it is made of. */
  private lookGathered(tables: readonly GatheredTable[], table: string | null): Found {
    const made = tables.find((t) => t.name === table);
    if (!made) return { kind: 'no-table', tables: tables.map((t) => t.name) };
    const { found } = this.looker.look(locationOf(made.main, this.scope.places), made.table);
    return found.kind === 'dataset' ? { ...found, table, spelled: null, realLocation: null } : found;
  }

  /** A folder that is one dataset, by the files that are below it. */
  private folderOf(path: string): string | null {
    const first = [...this.files.values()].find((f) => f.source !== null && standsIn(path, f.to));
    if (!first) return null;
    const depth = partsOf(first.to).length - partsOf(path).length;
    return Array.from({ length: depth }).reduce<string>((folder) => dirname(folder), first.source!);
  }

  /** A companion that stands beside the data here, and not in the bundle. */
  private lacking({ source, to }: BundleFile): string | null {
    const folder = dirname(source!);
    const group = groupAt(folder, source!);
    const below = to.slice(0, to.length - nameOf(to).length);
    const lost =
      group && filesOf(group).find((f) => !/-shm$/i.test(f.path) && this.files.get(below + f.path)?.source !== join(folder, f.path));
    return lost ? `${lost.path} does not travel` : null;
  }
}
