import type { Selection } from '@rootmap/core/contract';

/** Which records a selection means, as a part of a sentence: "where depth > 5, in an area of 4 corners (EPSG:32624)". */
export function selectionWords({ filter, area, records }: Selection): string {
  return [
    ...(filter.trim() === '' ? [] : [`where ${filter.trim()}`]),
    ...(area === null ? [] : [`in ${areaWords(area)}`]),
    ...(records === null ? [] : [`${records.length} chosen by hand`]),
  ].join(', ');
}

function areaWords({ crs, corners }: NonNullable<Selection['area']>): string {
  const of = crs === null ? '' : ` (${crs})`;
  const [xs, ys] = [corners.map((c) => c[0]), corners.map((c) => c[1])];
  const box = `${Math.min(...xs)} ${Math.min(...ys)} to ${Math.max(...xs)} ${Math.max(...ys)}${of}`;
  const isBox = corners.length === 4 && new Set(xs).size === 2 && new Set(ys).size === 2;
  return isBox ? `the box ${box}` : `an area of ${corners.length} corners within ${box}`;
}
