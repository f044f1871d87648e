import { LOCATOR, type PageMark } from './page-model.js';

type Degrees = readonly [longitude: number, latitude: number];
/** West, south, east, north. */
export type DegreeBox = readonly [number, number, number, number];

const TONES = { sea: '#e6ecf4', land: '#efe9da', shore: '#b8ab8a', page: '#8e2a62', edge: '#56625e' };
/** The region is so many times as high as the page, and at least so many degrees: more, where no land is in it. */
const TIMES = 12;
const LEAST_DEGREES = [6, 20, 60, 150] as const;
/** A page that is smaller than this is marked all the same. */
const LEAST_MARK = 1.6;

/** The region around a page: as wide as the small map, true to shape in its middle (equirectangular). */
export function regionOf([west, south, east, north]: DegreeBox, least: number = LEAST_DEGREES[0]): DegreeBox {
  const [x, y] = [(west + east) / 2, (south + north) / 2];
  const shrink = Math.max(0.2, Math.cos((y * Math.PI) / 180));
  const height = Math.min(170, Math.max(least, (north - south) * TIMES, ((east - west) * TIMES * shrink * LOCATOR.h) / LOCATOR.w));
  const width = Math.min(360, (height * LOCATOR.w) / LOCATOR.h / shrink);
  return [x - width / 2, y - height / 2, x + width / 2, y + height / 2];
}

/**
 * A small map of the region with the page marked in it, from its upper left corner.
 * @param landIn rings of the land in degrees, cut to a region
 * @param page the box of the page in degrees
 */
export function locatorMarks(landIn: (region: DegreeBox) => readonly (readonly Degrees[])[], page: DegreeBox): PageMark[] {
  const regions = LEAST_DEGREES.map((least) => regionOf(page, least));
  const [west, south, east, north] = regions.find((region) => landIn(region).length > 0) ?? regions[0]!;
  const land = landIn([west, south, east, north]);
  const { w, h } = LOCATOR;
  const at = ([x, y]: Degrees): readonly [number, number] => [((x - west) / (east - west)) * w, ((north - y) / (north - south)) * h];
  const d = land
    .filter((ring) => ring.length > 2)
    .map(
      (ring) =>
        `${ring
          .map(
            (p, i) =>
              `${i === 0 ? 'M' : 'L'}${at(p)
                .map((v) => v.toFixed(3))
                .join(' ')}`,
          )
          .join('')}Z`,
    )
    .join('');
  const [[left, top], [right, bottom]] = [at([page[0], page[3]]), at([page[2], page[1]])];
  const [markW, markH] = [Math.max(LEAST_MARK, right - left), Math.max(LEAST_MARK, bottom - top)];
  const box = (x: number, y: number, bw: number, bh: number, fill: string | null, stroke: string | null, width: number): PageMark => ({
    kind: 'rect',
    x,
    y,
    w: bw,
    h: bh,
    fill,
    stroke,
    width,
    opacity: 1,
  });
  return [
    box(0, 0, w, h, TONES.sea, null, 0),
    ...(d === '' ? [] : [{ kind: 'path', d, fill: TONES.land, stroke: TONES.shore, width: 0.12, opacity: 1 } as const]),
    box((left + right - markW) / 2, (top + bottom - markH) / 2, markW, markH, null, TONES.page, 0.5),
    box(0, 0, w, h, null, TONES.edge, 0.25),
  ];
}
