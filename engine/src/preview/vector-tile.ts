import { clipPolygon, clipPolyline } from 'lineclip';
import { fromGeojsonVt, type TileFeature } from 'vt-pbf';
import { tileBox, type TileSquare } from './tile-square.js';
import { labelAnchor } from './label-anchor.js';
import { HIDDEN, type ShapeClasses } from './shape-classes.js';
import { AREA, LINE, POINT, type Drawn, type ShapeStore, type StoredShape } from './shape-store.js';

/** Units across a tile (Mapbox Vector Tile specification 2.1), and those drawn beyond its edge so that outlines do not show it. */
const EXTENT = 4096;
const BUFFER = 64;
/** What is smaller than this in both directions is drawn as a cell of a raster: a screen shows no more of it. Units. */
const TINY = 24;
const CELL = 16;
const CELLS = EXTENT / CELL;
/** More shapes than these are not drawn one by one: the smaller ones become cells. */
const MOST_SHAPES = 8000;

/** More labels than these find no room on a tile. */
const MOST_LABELS = 400;

/**
 * One tile as a Mapbox Vector Tile with the layer `shapes`, empty where nothing is there. With classes, each feature says its
 * class as `c`, and a layer `labels` has the text of those whose label stands in this tile, as `l`.
 */
export function vectorTile(
  store: ShapeStore,
  square: TileSquare,
  z: number,
  x: number,
  y: number,
  classes: ShapeClasses | null = null,
): Uint8Array {
  const box = tileBox(square, z, x, y);
  const scale = EXTENT / (square.side / 2 ** z);
  const margin = BUFFER / scale;
  const found = store.within([box[0] - margin, box[1] - margin, box[2] + margin, box[3] + margin]);
  const cells = new Map<number, Cells>();
  const cellsOf = (n: number): Cells => {
    const c = classes ? classes.of[n]! : 0;
    let own = cells.get(c);
    if (!own) cells.set(c, (own = new Cells()));
    return own;
  };
  const sized: { n: number; size: number }[] = [];
  const { boxes } = store;
  for (const n of found) {
    if (classes && classes.of[n] === HIDDEN) continue;
    const [minx, miny, maxx, maxy] = [boxes[n * 4]!, boxes[n * 4 + 1]!, boxes[n * 4 + 2]!, boxes[n * 4 + 3]!];
    const size = Math.max(maxx - minx, maxy - miny) * scale;
    const isPoint = minx === maxx && miny === maxy;
    if (size < TINY && !(isPoint && found.length <= MOST_SHAPES))
      cellsOf(n).mark(((minx + maxx) / 2 - box[0]) * scale, (box[3] - (miny + maxy) / 2) * scale);
    else sized.push({ n, size });
  }
  if (sized.length > MOST_SHAPES) sized.sort((a, b) => b.size - a.size);
  const features: TileFeature[] = [];
  const labels: TileFeature[] = [];
  sized.forEach(({ n }, i) => {
    const shape = store.shape(n);
    const runs = shape.runs.map((run) => toUnits(run, box[0], box[3], scale));
    const tags: Record<string, string | number | boolean> = classes ? { c: classes.of[n]! } : {};
    if (i < MOST_SHAPES) features.push(...drawn(shape, runs, tags));
    else runs.forEach((run) => cellsOf(n).trace(run));
    const text = classes?.labels?.[n];
    if (text && labels.length < MOST_LABELS) labels.push(...labelled(shape, runs, { ...tags, l: text }, box, scale));
  });
  for (const [c, own] of cells)
    features.push({ id: 0, type: AREA, geometry: own.rectangles(), tags: classes ? { c, cells: true } : { cells: true } });
  if (features.length === 0) return new Uint8Array(0);
  return fromGeojsonVt(
    { shapes: { features }, ...(labels.length > 0 ? { labels: { features: labels } } : {}) },
    { version: 2, extent: EXTENT },
  );
}

/** The label of a shape, in the one tile that its anchor lies in; a line comes along, for text that follows it. */
function labelled(
  shape: StoredShape,
  runs: readonly Run[],
  tags: TileFeature['tags'],
  [minx, miny, maxx, maxy]: readonly [number, number, number, number],
  scale: number,
): TileFeature[] {
  const anchor = labelAnchor(shape);
  if (!anchor || anchor[0] < minx || anchor[0] >= maxx || anchor[1] <= miny || anchor[1] > maxy) return [];
  if (shape.kind === LINE) return drawn(shape, runs, tags);
  const point: [number, number] = [Math.round((anchor[0] - minx) * scale), Math.round((maxy - anchor[1]) * scale)];
  return [{ id: shape.id, type: POINT, geometry: [point], tags }];
}

type Run = [number, number][];

/** Positions as units of the tile; those that fall together, or nearly, are one. */
function toUnits(run: Float64Array, left: number, top: number, scale: number): Run {
  const out: Run = [];
  let [lastX, lastY] = [NaN, NaN];
  for (let i = 0; i < run.length; i += 2) {
    const x = Math.round((run[i]! - left) * scale);
    const y = Math.round((top - run[i + 1]!) * scale);
    const isLast = i + 2 >= run.length;
    if (!isLast && Math.abs(x - lastX) < CELL / 2 && Math.abs(y - lastY) < CELL / 2) continue;
    out.push([x, y]);
    [lastX, lastY] = [x, y];
  }
  return out;
}

const EDGE: [number, number, number, number] = [-BUFFER, -BUFFER, EXTENT + BUFFER, EXTENT + BUFFER];
const isInside = ([x, y]: [number, number]): boolean => x >= EDGE[0] && y >= EDGE[1] && x <= EDGE[2] && y <= EDGE[3];

function drawn({ id, kind }: StoredShape, runs: readonly Run[], tags: TileFeature['tags']): TileFeature[] {
  const geometry = clipped(kind, runs);
  return geometry.length === 0 ? [] : [{ id, type: kind, geometry, tags }];
}

function clipped(kind: Drawn, runs: readonly Run[]): Run[] | Run {
  if (kind === POINT) return runs.flat().filter(isInside);
  if (kind === LINE)
    return runs.flatMap((run) => (run.length < 2 ? [] : run.every(isInside) ? [run] : clipPolyline(run, EDGE))).map(rounded);
  return runs.map((run) => (run.every(isInside) ? run : closed(rounded(clipPolygon(run, EDGE))))).filter((run) => run.length > 3);
}

/** A ring ends where it begins, which is what the writer of the tile leaves out; one that is cut may end elsewhere. */
function closed(ring: Run): Run {
  const [first, last] = [ring[0], ring.at(-1)];
  return first && last && (first[0] !== last[0] || first[1] !== last[1]) ? [...ring, first] : ring;
}

const rounded = (run: readonly number[][]): Run => run.map(([x, y]) => [Math.round(x!), Math.round(y!)]);

/** What is too small to have a shape, as marks on a raster of the tile; told as few rectangles. */
class Cells {
  private readonly marked = new Uint8Array(CELLS * CELLS);
  mark(x: number, y: number): void {
    const [col, row] = [Math.floor(x / CELL), Math.floor(y / CELL)];
    if (col < 0 || row < 0 || col >= CELLS || row >= CELLS) return;
    this.marked[row * CELLS + col] = 1;
  }

  /** Marks the cells along a run. */
  trace(run: Run): void {
    for (let i = 0; i < run.length; i++) {
      const [ax, ay] = run[i]!;
      const [bx, by] = run[i + 1] ?? [ax, ay];
      const steps = Math.min(2 * CELLS, Math.ceil(Math.max(Math.abs(bx - ax), Math.abs(by - ay)) / CELL));
      for (let s = 0; s <= steps; s++) this.mark(ax + ((bx - ax) * s) / Math.max(1, steps), ay + ((by - ay) * s) / Math.max(1, steps));
    }
  }

  rectangles(): Run[] {
    const rings: Run[] = [];
    for (let row = 0; row < CELLS; row++)
      for (let col = 0; col < CELLS; col++) {
        if (!this.marked[row * CELLS + col]) continue;
        const from = col;
        while (col < CELLS && this.marked[row * CELLS + col]) col++;
        const [left, right, top, bottom] = [from * CELL, col * CELL, row * CELL, (row + 1) * CELL];
        rings.push([
          [left, top],
          [right, top],
          [right, bottom],
          [left, bottom],
          [left, top],
        ]);
      }
    return rings;
  }
}
