import { isInOrder } from '@rootmap/core';
import type { LayerView, MapView, ProjectView } from '@rootmap/core/contract';
import type { Bond } from '../parts/tether.js';
import { GAP, HEAD, PAD, ROW } from './diagram-geometry.js';
import { GHOST_ROW, layoutGhosts, type GhostNode } from './ghost-slots.js';
import { placeOf, type Datasets } from './place-of.js';
import { layoutBoxes, type SourceBox } from './source-boxes.js';

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
export interface Thread {
  readonly id: string;
  readonly row: string;
  readonly fromY: number;
  readonly toY: number;
  /** Height at which it comes together with others of its folder; null: it goes there by itself. */
  readonly gateY: number | null;
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
  /** By the id of their row. */
  readonly threadOf: ReadonlyMap<string, Thread>;
  readonly height: number;
}

const isGhost = (l: LayerView): boolean =>
  l.dataset === null && l.reach !== 'service' && (l.state === 'adrift' || l.state === 'absent' || l.state === 'unreadable');
const bondOf = (l: LayerView): Bond => ({ stored: l.stored, reach: l.reach, state: l.state });

/** Maps that start folded: wholly sound ones, when there is much to show. */
export function foldedAtFirst(project: ProjectView): Set<string> {
  const layers = project.maps.reduce((n, m) => n + m.layers.length, 0);
  if (layers <= FOLD_BEYOND) return new Set();
  return new Set(project.maps.filter((m) => m.layers.every((l) => isInOrder(l.state))).map((m) => m.path));
}

/**
 * Positions of the root diagram. Pure. Maps stand in file order; sources in an order that lessens crossings; ghosts beside the layers that
 * they belong to, where no tether passes.
 */
export function layoutDiagram(project: ProjectView, folded: ReadonlySet<string>): Diagram {
  const datasets = new Map(project.datasets.map((d) => [d.id, d]));
  const maps = layoutMaps(project.maps, folded, datasets);
  const rowOf = new Map<string, RowNode>();
  for (const m of maps) for (const r of m.rows) for (const l of r.layers) rowOf.set(l.key, r);
  const layers = project.maps.flatMap((m) => m.layers);
  const drawn = layers.filter((l) => !isGhost(l));
  const heightOf = (l: LayerView): number => rowOf.get(l.key)!.y;
  const boxes = layoutBoxes(project, drawn, datasets, heightOf, (l) => folded.has(l.map));
  const ghosts = layoutGhosts(layers.filter(isGhost), heightOf, drawn.map(heightOf));
  const threads = makeThreads(maps, boxes, ghosts, datasets);
  const bottom = (nodes: readonly { y: number; height: number }[]): number => Math.max(0, ...nodes.map((n) => n.y + n.height));
  const threadOf = new Map(threads.map((t) => [t.row, t]));
  return { maps, boxes, ghosts, threads, threadOf, height: Math.max(bottom(maps), bottom(boxes), bottom(ghosts)) + GAP };
}

function layoutMaps(maps: readonly MapView[], folded: ReadonlySet<string>, datasets: Datasets): MapNode[] {
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
function bandsOf(map: MapView, datasets: Datasets): { id: string; label: string; layers: LayerView[] }[] {
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

function makeThreads(maps: readonly MapNode[], boxes: readonly SourceBox[], ghosts: readonly GhostNode[], datasets: Datasets): Thread[] {
  const sourceY = new Map(boxes.flatMap((b) => b.rows.map((r) => [r.id, r.y] as const)));
  const ghostOf = new Map(ghosts.flatMap((g) => g.layers.map((l) => [l.key, g] as const)));
  const threads: Thread[] = [];
  const used = new Map<string, number>();
  const ofFolder = new Map<string, number[]>();
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
        threads.push({ ...base, toY: ghost.y + 12 + n * GHOST_ROW, gateY: null, toGhost: true, target: ghost.id });
        continue;
      }
      const at = placeOf(first, datasets);
      const isBand = row.layers.length > 1 && at.box !== 'service';
      const target = isBand || !sourceY.has(at.row) ? `${at.box}/${at.folder}` : at.row;
      threads.push({ ...base, toY: sourceY.get(target) ?? row.y, gateY: null, toGhost: false, target });
      const folder = `${at.box}/${at.folder}`;
      ofFolder.set(folder, [...(ofFolder.get(folder) ?? []), threads.length - 1]);
    }
  for (const indices of ofFolder.values()) {
    const ends = [...new Set(indices.map((i) => threads[i]!.toY))];
    if (ends.length < 2) continue;
    const gateY = (Math.min(...ends) + Math.max(...ends)) / 2;
    for (const i of indices) threads[i] = { ...threads[i]!, gateY };
  }
  return threads;
}
