import { statSync, type Stats } from 'node:fs';
import {
  explain,
  fingerprintOf,
  foldName,
  formatOf,
  groupFiles,
  isOpaqueFolder,
  KIND,
  locateHere,
  placeNamed,
  type Dataset,
  type FileEntry,
  type FileGroup,
  type Found,
  type Location,
  type Place,
  joined,
  partsOf,
} from '@rootmap/core';
import { realPath } from '../disk/real-path.js';
import { basename, below, dirname, isInside, join, toAddress } from '../disk/native-path.js';
import { diskProblem } from '../disk/disk-problem.js';
import { describeBelow } from './list-datasets.js';
import { entryOf } from './list-files.js';
import { pathOf, realRoot } from '../places/places.js';
import { Names, spell } from './spell.js';

/** What a look at a dataset gives: its state on disk, and the dataset itself for whoever reads on. */
export interface Looked {
  readonly found: Found;
  readonly dataset: Dataset | null;
  /** Real folder that the dataset's file entries are relative to. */
  readonly folder: string | null;
}

const only = (found: Found): Looked => ({ found, dataset: null, folder: null });

/** One text for each place that a layer can name. */
export const lookKey = ({ place, segments }: Location, table: string | null): string => `${place}\n${joined(segments)}\n${table ?? '\n'}`;

/** Looks what stands at locations; the listing and headers of a file are read once for all layers that use it. */
export class Looker {
  private readonly names = new Names();
  private readonly datasets = new Map<string, readonly Dataset[]>();

  constructor(private readonly places: readonly Place[]) {}

  private readonly looked = new Map<string, Looked>();

  look(location: Location, table: string | null): Looked {
    const key = lookKey(location, table);
    let looked = this.looked.get(key);
    if (!looked) this.looked.set(key, (looked = this.lookNow(location, table)));
    return looked;
  }

  private lookNow(location: Location, table: string | null): Looked {
    const place = placeNamed(this.places, location.place);
    if (!place) throw new Error(`unknown place ${location.place}`);
    try {
      return this.lookIn(place, location, table);
    } catch (error) {
      const problem = diskProblem(error, joined(location.segments));
      if (!problem) throw error;
      if (problem.code === 'permission') return only({ kind: 'denied' });
      if (problem.code === 'missing') return only({ kind: 'nothing' });
      return only({ kind: 'damaged', why: explain(problem) });
    }
  }

  private lookIn(place: Place, location: Location, table: string | null): Looked {
    const spelling = spell(pathOf(place), location.segments, this.names);
    if (spelling.kind === 'nothing') return only({ kind: 'nothing' });
    if (spelling.kind === 'ambiguous') return only({ kind: 'ambiguous', spellings: spelling.spellings });
    const path = join(pathOf(place), ...spelling.segments);
    const real = realPath(path);
    const root = realRoot(place);
    if (!isInside(root, real)) return only({ kind: 'leaves-place' });
    const rest = below(root, real);
    const segments = rest === null ? [] : partsOf(rest);
    const spelled = spelling.exact ? null : spelling.segments;
    if (joined(segments) === joined(spelling.segments)) return this.lookAt(path, statSync(path), table, { spelled, realLocation: null });
    if (place.ignoresCase && foldName(joined(segments)) === foldName(joined(spelling.segments)))
      return this.lookAt(join(pathOf(place), ...segments), statSync(path), table, { spelled: segments, realLocation: null });
    return this.lookAt(path, statSync(path), table, { spelled, realLocation: this.relocate(place, segments, real) });
  }

  /** A place that is a whole disk has others in it. */
  private relocate(place: Place, segments: readonly string[], real: string): Location {
    const inPlace: Location = { place: place.name, segments };
    return place.root.segments.length === 0 ? (locateHere(toAddress(real), this.places) ?? inPlace) : inPlace;
  }

  private lookAt(
    path: string,
    stat: Stats,
    table: string | null,
    how: { spelled: readonly string[] | null; realLocation: Location | null },
  ): Looked {
    const [folder, name] = [dirname(path), basename(path)];
    const datasets = stat.isDirectory() ? this.opaque(path, folder, name) : this.datasetsAt(folder, name);
    if (datasets.length === 0) return only(formatOf(name) === 'geopackage' ? { kind: 'no-table', tables: [] } : { kind: 'not-a-dataset' });
    const chosen = chooseTable(datasets, table);
    if (!('group' in chosen)) return only(chosen);
    if (chosen.state === 'unreadable')
      return { found: { kind: 'damaged', why: chosen.findings[0]?.message ?? 'it cannot be read' }, dataset: chosen, folder };
    const incomplete =
      chosen.state === 'incomplete'
        ? (chosen.findings.find((f) => f.code === 'companion-missing')?.message ?? 'a companion is missing')
        : null;
    return {
      found: { kind: 'dataset', fingerprint: fingerprintOf(chosen.group, chosen), table: chosen.table, incomplete, ...how },
      dataset: chosen,
      folder,
    };
  }

  private datasetsAt(folder: string, name: string): readonly Dataset[] {
    const key = join(folder, name);
    const known = this.datasets.get(key);
    if (known) return known;
    const group = this.groupOf(folder, name);
    const datasets = group ? describeBelow(folder, group) : [];
    this.datasets.set(key, datasets);
    return datasets;
  }

  private groupOf(folder: string, name: string): FileGroup | null {
    const stem = name.slice(0, name.lastIndexOf('.') < 0 ? undefined : name.lastIndexOf('.')).toLowerCase();
    const entries: FileEntry[] = [];
    for (const n of this.names.in(folder) ?? []) if (n.toLowerCase().startsWith(stem)) push(entries, folder, n);
    const group = groupFiles(entries).groups.find((g) => g.path === name && g.kind !== 'document');
    if (group) return group;
    const main = entries.find((e) => e.path === name);
    const format = formatOf(name);
    // An image without a georeference is still what a layer can draw; a companion or a document is not.
    if (!main || (format !== 'image' && format !== 'dbf')) return null;
    return { format, kind: KIND[format], path: name, main, companions: [], borrowed: [] };
  }

  private opaque(path: string, folder: string, name: string): readonly Dataset[] {
    const names = this.names.in(path) ?? [];
    if (!isOpaqueFolder(names)) return [];
    const entries: FileEntry[] = [];
    for (const n of names) push(entries, folder, `${name}/${n}`);
    return groupFiles(entries).groups.flatMap((g) => describeBelow(folder, g));
  }
}

function push(entries: FileEntry[], folder: string, path: string): void {
  const stat = statSync(join(folder, path), { throwIfNoEntry: false });
  if (stat?.isFile()) entries.push(entryOf(path, stat, join(folder, path)));
}

/** Without a fragment, the only table; with one, the table of exactly that name. */
function chooseTable(datasets: readonly Dataset[], table: string | null): Dataset | Found {
  const tables = datasets.map((d) => d.table).filter((t) => t !== null);
  const first = datasets[0]!;
  if (first.table === null && tables.length === 0) return first; // no container, or one that cannot be read
  if (table !== null) return datasets.find((d) => d.table === table) ?? { kind: 'no-table', tables };
  return datasets.length === 1 ? first : { kind: 'table-not-named', tables };
}
