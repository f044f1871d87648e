import type { PageLabel, PageShape, PageShapes, PageShapesRequest } from '@rootmap/core/contract';
import { KINDS } from './identify.js';
import { labelAnchor } from './label-anchor.js';
import { HIDDEN, type ShapeClasses } from './shape-classes.js';
import { LINE, POINT, type ShapeStore, type StoredShape } from './shape-store.js';

/** More positions of a layer are not handed over: as many make a page that no reader opens in a moment. */
const MOST_POSITIONS = 400_000;

/** What a layer draws in a frame, position by position, in the order of its records; null: that is too much. */
export function pageShapes(
  store: ShapeStore,
  classes: ShapeClasses | null,
  { box, tolerance }: Pick<PageShapesRequest, 'box' | 'tolerance'>,
): PageShapes | null {
  const shapes: PageShape[] = [];
  const labels: PageLabel[] = [];
  let left = MOST_POSITIONS;
  const found = Array.from(store.within(box)).sort((a, b) => a - b);
  for (const n of found) {
    if (classes && classes.of[n] === HIDDEN) continue;
    const shape = store.shape(n);
    const runs = shape.runs.map((run) => (shape.kind === POINT ? Array.from(run) : thinned(run, tolerance)));
    left -= runs.reduce((sum, run) => sum + run.length / 2, 0);
    if (left < 0) return null;
    shapes.push({ c: classes ? classes.of[n]! : 0, kind: KINDS[shape.kind], runs });
    const text = classes?.labels?.[n];
    const label = text ? labelOf(shape, text) : null;
    if (label && isWithin(label.at, box)) labels.push(label);
  }
  return { shapes, labels };
}

const isWithin = ([x, y]: readonly [number, number], [minx, miny, maxx, maxy]: PageShapesRequest['box']): boolean =>
  x >= minx && x <= maxx && y >= miny && y <= maxy;

/** Without positions that nobody could tell from the one before; the last one always stays. */
function thinned(run: Float64Array, tolerance: number): number[] {
  const out: number[] = [];
  let [lastX, lastY] = [NaN, NaN];
  for (let i = 0; i < run.length; i += 2) {
    const [x, y] = [run[i]!, run[i + 1]!];
    const isLast = i + 2 >= run.length;
    if (!isLast && Math.abs(x - lastX) < tolerance && Math.abs(y - lastY) < tolerance) continue;
    out.push(x, y);
    [lastX, lastY] = [x, y];
  }
  return out;
}

function labelOf(shape: StoredShape, text: string): PageLabel | null {
  const at = labelAnchor(shape);
  return at && { text, at, angle: shape.kind === LINE ? angleAt(shape, at) : 0 };
}

/** The direction of the piece of a line that a point on it stands on. */
function angleAt({ runs }: StoredShape, [x, y]: readonly [number, number]): number {
  let [least, angle] = [Infinity, 0];
  for (const run of runs)
    for (let i = 0; i + 3 < run.length; i += 2) {
      const [dx, dy] = [run[i + 2]! - run[i]!, run[i + 3]! - run[i + 1]!];
      const square = dx * dx + dy * dy;
      const t = square === 0 ? 0 : Math.min(1, Math.max(0, ((x - run[i]!) * dx + (y - run[i + 1]!) * dy) / square));
      const away = Math.hypot(run[i]! + t * dx - x, run[i + 1]! + t * dy - y);
      if (away < least) [least, angle] = [away, (Math.atan2(dy, dx) * 180) / Math.PI];
    }
  return angle > 90 ? angle - 180 : angle < -90 ? angle + 180 : angle;
}
