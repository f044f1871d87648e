import type { CrsCandidate, CrsView } from '@rootmap/core/contract';
import { toDegrees } from './definitions.js';
import { crsAt, crsNamed, degreesAt, holdsSpot } from './search-crs.js';

type Box = readonly [number, number, number, number];
const MOST = 12;
const MOST_IN_DEGREES = 8;
/** Data reaches a little over the area that a CRS is meant for. Degrees. Common practice, no source. */
const MARGIN = 0.5;

export interface RankOptions {
  readonly project: string | null;
  /** How many datasets beside it have which CRS. */
  readonly used: ReadonlyMap<string, number>;
  /** Boxes of those datasets, with their CRSs: they tell the region. */
  readonly neighbours: readonly { readonly code: string; readonly bbox: Box }[];
}

/**
 * CRSs that the coordinates of a dataset without one could be in: where they come to lie inside the area that the CRS is meant
 * for. Those of the project and of its other data first, then those of the region.
 * @param bbox minx, miny, maxx, maxy as the file has them
 */
export function rankCrs(bbox: Box, { project, used, neighbours }: RankOptions): CrsCandidate[] {
  const region = middleOf(neighbours);
  const codes = new Map<string, string>();
  const offer = (code: string, why: string): void => void (codes.has(code) || codes.set(code, why));
  if (project) offer(project, 'the project has it');
  for (const [code, n] of [...used].sort((a, b) => b[1] - a[1])) offer(code, `${n} ${n === 1 ? 'dataset has' : 'datasets have'} it`);
  if (looksLikeDegrees(bbox)) {
    offer('EPSG:4326', 'the numbers can be degrees');
    const [x, y] = [(bbox[0] + bbox[2]) / 2, (bbox[1] + bbox[3]) / 2];
    for (const c of degreesAt(x, y).slice(0, MOST_IN_DEGREES)) offer(c.code, 'degrees as they are used there');
  }
  if (region) for (const crs of crsAt(...region)) offer(crs.code, 'it is meant for this region');
  const found = [...codes].flatMap(([code, why]): CrsCandidate[] => {
    const crs = crsNamed(code);
    const spot = crs && spotOf(bbox, crs);
    return crs ? [{ crs, why, spot, fits: spot !== null && holdsSpot(crs, spot[0], spot[1], MARGIN) }] : [];
  });
  const near = (c: CrsCandidate): number => (region && c.spot ? Math.hypot(c.spot[0] - region[0], c.spot[1] - region[1]) : 0);
  const order = [...codes.keys()];
  return found
    .sort(
      (a, b) =>
        Number(b.fits) - Number(a.fits) || rankOf(near(a)) - rankOf(near(b)) || order.indexOf(a.crs.code) - order.indexOf(b.crs.code),
    )
    .slice(0, MOST);
}

/** Near its neighbours, in the same part of the world, or elsewhere. */
const rankOf = (degrees: number): number => (degrees < 2 ? 0 : degrees < 15 ? 1 : 2);

const looksLikeDegrees = ([minx, miny, maxx, maxy]: Box): boolean => minx >= -360 && maxx <= 360 && miny >= -90 && maxy <= 90;
const spotOf = ([minx, miny, maxx, maxy]: Box, crs: CrsView): [number, number] | null =>
  toDegrees(crs.code, [(minx + maxx) / 2, (miny + maxy) / 2]);

function middleOf(neighbours: RankOptions['neighbours']): [number, number] | null {
  const spots = neighbours.flatMap(({ code, bbox }) => {
    const spot = toDegrees(code, [(bbox[0] + bbox[2]) / 2, (bbox[1] + bbox[3]) / 2]);
    return spot ? [spot] : [];
  });
  if (spots.length === 0) return null;
  const median = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1]!;
  return [median(spots.map((s) => s[0])), median(spots.map((s) => s[1]))];
}
