import type { DatasetView, LayerView, ProjectView } from '@rootmap/core/contract';
import { inOrderOfLines } from './crossings.js';
import { hostOf, placeOf, type Datasets } from './place-of.js';
import { FOLDER, GAP, HEAD, PAD, ROW } from './diagram-geometry.js';
import { asWritten } from '../parts/format.js';

interface SourceRow {
  readonly id: string;
  readonly kind: 'folder' | 'dataset' | 'note';
  /** Centre. */
  readonly y: number;
  readonly label: string;
  readonly dataset: DatasetView | null;
}
export interface SourceBox {
  readonly id: string;
  readonly kind: 'root' | 'link' | 'outside' | 'service';
  readonly title: string;
  readonly note: string;
  readonly present: boolean;
  readonly y: number;
  readonly height: number;
  readonly rows: readonly SourceRow[];
}

/** What is to be drawn, and the heights of the layers that draw on it. */
interface WantedRow {
  readonly id: string;
  readonly label: string;
  readonly dataset: DatasetView | null;
  readonly ys: number[];
  isFolded: boolean;
}
interface WantedFolder {
  readonly name: string;
  readonly ys: number[];
  readonly rows: Map<string, WantedRow>;
}
interface Wanted {
  readonly id: string;
  readonly ys: number[];
  readonly folders: Map<string, WantedFolder>;
}

const ensured = <K, V>(map: Map<K, V>, key: K, make: () => V): V => {
  const known = map.get(key);
  if (known !== undefined) return known;
  const made = make();
  map.set(key, made);
  return made;
};

const ORDER: Readonly<Record<string, number>> = { root: 0, link: 1, outside: 2, service: 3 };
const kindOf = (id: string): SourceBox['kind'] => id.split(':')[0] as SourceBox['kind'];
const ysOf = (wanted: { readonly ys: readonly number[] }): readonly number[] => wanted.ys;

/**
 * Where data is: the root, links, what is outside, services, one below the other. Folders of a box, and data of a folder, stand in the order
 * that lessens crossings of what leads to them.
 * @param heightOf height of a layer's row
 * @param isFolded a layer's map is folded: its data is not shown by itself
 */
export function layoutBoxes(
  project: ProjectView,
  drawn: readonly LayerView[],
  datasets: Datasets,
  heightOf: (l: LayerView) => number,
  isFolded: (l: LayerView) => boolean,
): SourceBox[] {
  const wanted = new Map<string, Wanted>();
  const boxOf = (id: string): Wanted => ensured(wanted, id, () => ({ id, ys: [], folders: new Map() }));
  boxOf('root');
  for (const link of project.links) boxOf(`link:${link.name}`);
  for (const l of drawn) {
    const at = placeOf(l, datasets);
    const y = heightOf(l);
    const box = boxOf(at.box);
    const folder = ensured(box.folders, at.folder, () => ({ name: at.folder, ys: [], rows: new Map<string, WantedRow>() }));
    const dataset = l.dataset === null ? null : (datasets.get(l.dataset) ?? null);
    const row = ensured(folder.rows, at.row, () => ({ id: at.row, label: labelOf(l, dataset), dataset, ys: [], isFolded: true }));
    for (const { ys } of [box, folder, row]) ys.push(y);
    row.isFolded &&= isFolded(l);
  }
  const kinds = Object.keys(ORDER).flatMap((kind) => inOrderOfLines([...wanted.values()].filter((w) => kindOf(w.id) === kind), ysOf)); // prettier-ignore
  let top = 10;
  return kinds.map((box) => {
    const node = { id: box.id, kind: kindOf(box.id), ...wordsOf(box.id, kindOf(box.id), project), y: top, ...rowsOf(box, top) };
    top += node.height + GAP;
    return node;
  });
}

function labelOf(l: LayerView, dataset: DatasetView | null): string {
  if (dataset) return dataset.name;
  if (l.reach === 'service') return hostOf(l.href ?? '');
  return `${(l.resolved ?? l.href ?? '').replace(/^.*\//, '')}${l.table ? `#${l.table}` : ''}`;
}

function rowsOf(box: Wanted, top: number): Pick<SourceBox, 'rows' | 'height'> {
  const kind = kindOf(box.id);
  const rows: SourceRow[] = [];
  let y = top + (kind === 'root' ? 22 : HEAD);
  const push = (row: Omit<SourceRow, 'y'>, height: number): void => {
    rows.push({ ...row, y: y + height / 2 });
    y += height;
  };
  for (const folder of inOrderOfLines([...box.folders.values()], ysOf)) {
    const label = folder.name === '' ? (kind === 'root' ? 'at the root' : 'at its top') : asWritten(folder.name);
    if (kind !== 'service') push({ id: `${box.id}/${folder.name}`, kind: 'folder', label, dataset: null }, FOLDER);
    for (const { id, label: name, dataset, isFolded } of inOrderOfLines([...folder.rows.values()], ysOf))
      if (!isFolded || kind === 'service') push({ id, kind: 'dataset', label: name, dataset }, ROW);
  }
  const nothing = kind === 'root' ? 'no layer draws on it yet' : 'no layer draws on it now';
  if (rows.length === 0) push({ id: `${box.id}:empty`, kind: 'note', label: nothing, dataset: null }, ROW);
  return { rows, height: y - top + PAD };
}

function wordsOf(id: string, kind: SourceBox['kind'], project: ProjectView): { title: string; note: string; present: boolean } {
  if (kind === 'root') return { title: project.root.replace(/^.*\//, ''), note: '', present: true };
  if (kind === 'outside') return { title: 'outside the root', note: 'not linked', present: true };
  if (kind === 'service') return { title: 'services', note: serviceNote(project), present: true };
  const link = project.links.find((l) => `link:${l.name}` === id);
  return {
    title: `linked ${link?.name ?? ''}`,
    note: link?.place ? `on ${link.place}${link.present ? '' : ', absent'}` : 'nowhere to be found',
    present: link?.present ?? false,
  };
}

function serviceNote(project: ProjectView): string {
  const drawn = project.maps.flatMap((m) => m.layers).filter((l) => l.reach === 'service');
  const notAsked = drawn.filter((l) => l.state === 'not-asked').length;
  const sound = drawn.filter((l) => l.state === 'sound').length;
  if (notAsked === drawn.length) return 'not asked';
  const parts = [
    [sound, 'answering'],
    [drawn.length - sound - notAsked, 'not answering'],
    [notAsked, 'not asked'],
  ] as const;
  return parts.flatMap(([n, word]) => (n > 0 ? [`${n} ${word}`] : [])).join(', ');
}
