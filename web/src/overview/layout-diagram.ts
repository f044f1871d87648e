import { isInOrder } from '@rootmap/core';
import type { DatasetView, LayerView, MapView, ProjectView } from '@rootmap/core/contract';
import type { Bond } from '../parts/tether.js';

/** Sizes in CSS pixels. */
export const ROW = 24;
const HEAD = 34;
const GAP = 14;
const PAD = 8;
const FOLDER = 24;
const GHOST_ROW = 17;
/** Beyond this many layers, maps that are wholly sound are folded at first. */
const FOLD_BEYOND = 24;

interface RowNode {
  readonly id: string;
  /** Centre. */
  readonly y: number;
  readonly layers: readonly LayerView[];
  readonly label: string;
}
export interface MapNode {
  readonly map: MapView;
  readonly y: number;
  readonly height: number;
  readonly folded: boolean;
  readonly rows: readonly RowNode[];
}
interface SourceRow {
  readonly id: string;
  readonly kind: 'folder' | 'dataset' | 'note';
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
export interface GhostNode {
  readonly id: string;
  readonly y: number;
  readonly height: number;
  readonly label: string;
  readonly layers: readonly LayerView[];
}
export interface Thread {
  readonly id: string;
  readonly row: string;
  readonly fromY: number;
  readonly toY: number;
  /** Ends at a ghost in the gap, not at a source. */
  readonly toGhost: boolean;
  readonly target: string;
  readonly bond: Bond;
  readonly count: number;
  readonly layers: readonly string[];
}
export interface Diagram {
  readonly maps: readonly MapNode[];
  readonly boxes: readonly SourceBox[];
  readonly ghosts: readonly GhostNode[];
  readonly threads: readonly Thread[];
  readonly height: number;
}

const isGhost = (l: LayerView): boolean =>
  l.dataset === null && l.reach !== 'service' && (l.state === 'adrift' || l.state === 'absent' || l.state === 'unreadable');
const bondOf = (l: LayerView): Bond => ({ stored: l.stored, reach: l.reach, state: l.state });

/** Where a layer's data is, as a box of the right side and a folder in it. */
function placeOf(l: LayerView, datasets: ReadonlyMap<string, DatasetView>): { box: string; folder: string; row: string } {
  if (l.reach === 'service') {
    const host = hostOf(l.href ?? '');
    return { box: 'service', folder: host, row: `service:${host}` };
  }
  const d = l.dataset === null ? undefined : datasets.get(l.dataset);
  const box = l.link ? `link:${l.link}` : l.reach === 'inside' ? 'root' : 'outside';
  const folder = d ? d.folder : (l.recordedFolder ?? '');
  return { box, folder, row: d ? d.id : `elsewhere:${l.resolved ?? l.href}` };
}

const hostOf = (href: string): string => /^https?:\/\/([^/?#]+)/i.exec(href)?.[1] ?? href;

/** Maps that start folded: wholly sound ones, when there is much to show. */
export function foldedAtFirst(project: ProjectView): Set<string> {
  const layers = project.maps.reduce((n, m) => n + m.layers.length, 0);
  if (layers <= FOLD_BEYOND) return new Set();
  return new Set(project.maps.filter((m) => m.layers.every((l) => isInOrder(l.state))).map((m) => m.path));
}

/**
 * Positions of the root diagram. Pure. Maps stand in file order; sources are ordered by the mean height of the layers they
 * feed, so that tethers cross little; ghosts have the gap between for themselves.
 */
export function layoutDiagram(project: ProjectView, folded: ReadonlySet<string>): Diagram {
  const datasets = new Map(project.datasets.map((d) => [d.id, d]));
  const maps = layoutMaps(project.maps, folded, datasets);
  const rowOf = new Map<string, RowNode>();
  for (const m of maps) for (const r of m.rows) for (const l of r.layers) rowOf.set(l.key, r);
  const layers = project.maps.flatMap((m) => m.layers);
  const drawn = layers.filter((l) => !isGhost(l));
  const boxes = layoutBoxes(project, drawn, datasets, rowOf, folded);
  const ghosts = layoutGhosts(layers.filter(isGhost), rowOf);
  const threads = makeThreads(maps, boxes, ghosts, datasets);
  const bottom = (nodes: readonly { y: number; height: number }[]): number => Math.max(0, ...nodes.map((n) => n.y + n.height));
  return { maps, boxes, ghosts, threads, height: Math.max(bottom(maps), bottom(boxes), bottom(ghosts)) + GAP };
}

function layoutMaps(maps: readonly MapView[], folded: ReadonlySet<string>, datasets: ReadonlyMap<string, DatasetView>): MapNode[] {
  let y = 0;
  return maps.map((map) => {
    const isFolded = folded.has(map.path);
    const entries = isFolded
      ? bandsOf(map, datasets)
      : map.layers.map((l) => ({ id: l.key, label: l.title || 'untitled layer', layers: [l] }));
    const rows = entries.map((e, i): RowNode => ({ ...e, y: y + HEAD + i * ROW + ROW / 2 }));
    const height = HEAD + Math.max(1, rows.length) * ROW + PAD;
    const node: MapNode = { map, y, height, folded: isFolded, rows };
    y += height + GAP;
    return node;
  });
}

/** Layers of a folded map, one band for each folder and state. */
function bandsOf(map: MapView, datasets: ReadonlyMap<string, DatasetView>): { id: string; label: string; layers: LayerView[] }[] {
  const bands = new Map<string, { id: string; label: string; layers: LayerView[] }>();
  for (const l of map.layers) {
    const { box, folder } = placeOf(l, datasets);
    const key = `${map.path}\n${box}\n${folder}\n${l.state}`;
    const band = bands.get(key);
    if (band) band.layers.push(l);
    else bands.set(key, { id: key, label: '', layers: [l] });
  }
  for (const b of bands.values()) b.label = b.layers.length === 1 ? b.layers[0]!.title : `${b.layers.length} layers`;
  return [...bands.values()];
}

const mean = (values: readonly number[]): number =>
  values.length ? values.reduce((a, b) => a + b, 0) / values.length : Number.MAX_SAFE_INTEGER;

function layoutBoxes(
  project: ProjectView,
  drawn: readonly LayerView[],
  datasets: ReadonlyMap<string, DatasetView>,
  rowOf: ReadonlyMap<string, RowNode>,
  folded: ReadonlySet<string>,
): SourceBox[] {
  interface WantedFolder {
    readonly ys: number[];
    readonly rows: Map<string, { label: string; dataset: DatasetView | null; ys: number[]; bandsOnly: boolean }>;
  }
  interface Wanted {
    readonly ys: number[];
    readonly folders: Map<string, WantedFolder>;
  }
  const wanted = new Map<string, Wanted>();
  const boxOf = (id: string): Wanted => {
    const known = wanted.get(id);
    if (known) return known;
    const made: Wanted = { ys: [], folders: new Map() };
    wanted.set(id, made);
    return made;
  };
  boxOf('root');
  for (const link of project.links) boxOf(`link:${link.name}`);
  for (const l of drawn) {
    const at = placeOf(l, datasets);
    const y = rowOf.get(l.key)!.y;
    const box = boxOf(at.box);
    box.ys.push(y);
    const folder: WantedFolder = box.folders.get(at.folder) ?? { ys: [], rows: new Map() };
    box.folders.set(at.folder, folder);
    folder.ys.push(y);
    const dataset = l.dataset === null ? null : (datasets.get(l.dataset) ?? null);
    const label =
      dataset?.name ??
      (l.reach === 'service'
        ? hostOf(l.href ?? '')
        : `${(l.resolved ?? l.href ?? '').replace(/^.*\//, '')}${l.table ? `#${l.table}` : ''}`);
    const row = folder.rows.get(at.row) ?? { label, dataset, ys: [], bandsOnly: true };
    row.ys.push(y);
    row.bandsOnly &&= folded.has(l.map);
    folder.rows.set(at.row, row);
  }
  const order: Readonly<Record<string, number>> = { root: 0, link: 1, outside: 2, service: 3 };
  const sorted = [...wanted].sort(
    ([a, x], [b, z]) => (order[a.split(':')[0]!] ?? 9) - (order[b.split(':')[0]!] ?? 9) || mean(x.ys) - mean(z.ys),
  );
  let top = 10;
  return sorted.map(([id, box]) => {
    const kind = id.split(':')[0] as SourceBox['kind'];
    const rows: SourceRow[] = [];
    let y = top + (kind === 'root' ? 22 : HEAD);
    const push = (row: Omit<SourceRow, 'y'>, height: number): void => {
      rows.push({ ...row, y: y + height / 2 });
      y += height;
    };
    for (const [folder, f] of [...box.folders].sort(([, a], [, b]) => mean(a.ys) - mean(b.ys))) {
      if (kind !== 'service')
        push(
          {
            id: `${id}/${folder}`,
            kind: 'folder',
            label: folder === '' ? (kind === 'root' ? 'at the root' : 'at its top') : folder,
            dataset: null,
          },
          FOLDER,
        );
      for (const [rowId, r] of [...f.rows].sort(([, a], [, b]) => mean(a.ys) - mean(b.ys)))
        if (!r.bandsOnly || kind === 'service') push({ id: rowId, kind: 'dataset', label: r.label, dataset: r.dataset }, ROW);
    }
    if (rows.length === 0)
      push(
        {
          id: `${id}:empty`,
          kind: 'note',
          label: kind === 'root' ? 'no layer draws on it yet' : 'no layer draws on it now',
          dataset: null,
        },
        ROW,
      );
    const height = y - top + PAD;
    const node: SourceBox = { id, kind, ...wordsOf(id, kind, project), y: top, height, rows };
    top += height + GAP;
    return node;
  });
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

/** One ghost for each recorded folder; they stand beside the layers they belong to and never over each other. */
function layoutGhosts(layers: readonly LayerView[], rowOf: ReadonlyMap<string, RowNode>): GhostNode[] {
  const byFolder = new Map<string, LayerView[]>();
  for (const l of layers) {
    const key = l.recordedFolder ?? 'no source recorded';
    byFolder.set(key, [...(byFolder.get(key) ?? []), l]);
  }
  const wanted = [...byFolder]
    .map(([label, list]) => ({ label, list, centre: mean(list.map((l) => rowOf.get(l.key)!.y)) }))
    .sort((a, b) => a.centre - b.centre);
  let free = 0;
  return wanted.map(({ label, list, centre }) => {
    const height = 44 + Math.max(1, new Set(list.map((l) => rowOf.get(l.key)!.id)).size) * GHOST_ROW * 0.5;
    const y = Math.max(free, centre - height / 2);
    free = y + height + 10;
    return { id: `ghost:${label}`, y, height, label, layers: list };
  });
}

function makeThreads(
  maps: readonly MapNode[],
  boxes: readonly SourceBox[],
  ghosts: readonly GhostNode[],
  datasets: ReadonlyMap<string, DatasetView>,
): Thread[] {
  const sourceY = new Map<string, number>();
  for (const b of boxes) for (const r of b.rows) sourceY.set(r.id, r.y);
  const ghostOf = new Map(ghosts.flatMap((g) => g.layers.map((l) => [l.key, g] as const)));
  const threads: Thread[] = [];
  const used = new Map<string, number>();
  for (const map of maps)
    for (const row of map.rows) {
      const first = row.layers[0]!;
      const ghost = ghostOf.get(first.key);
      const base = {
        id: row.id,
        row: row.id,
        fromY: row.y,
        bond: bondOf(first),
        count: row.layers.length,
        layers: row.layers.map((l) => l.key),
      };
      if (ghost) {
        const n = used.get(ghost.id) ?? 0;
        used.set(ghost.id, n + 1);
        const step = Math.min(GHOST_ROW, (ghost.height - 14) / Math.max(1, ghost.layers.length));
        threads.push({ ...base, toY: ghost.y + 10 + n * step, toGhost: true, target: ghost.id });
        continue;
      }
      const at = placeOf(first, datasets);
      const isBand = row.layers.length > 1 && at.box !== 'service';
      const target = isBand || !sourceY.has(at.row) ? `${at.box}/${at.folder}` : at.row;
      threads.push({ ...base, toY: sourceY.get(target) ?? row.y, toGhost: false, target });
    }
  return threads;
}
