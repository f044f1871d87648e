import proj4 from 'proj4';

/** What a PROJ string says of its shift to WGS 84. */
const shiftOf = (proj: string): string =>
  proj
    .split(' ')
    .filter((word) => /^\+(datum|towgs84)=/.test(word))
    .sort()
    .join(' ');

/** PROJ strings of two CRSs. Of one datum nothing is shifted: there and back again would cost some millimetres. */
export function withoutShift(from: string, to: string): [string, string] {
  const shift = shiftOf(from);
  return shift !== '' && shift === shiftOf(to) ? [onEllipsoid(from), onEllipsoid(to)] : [from, to];
}

const ELLIPSOID = /^\+(ellps|a|b|rf|R)=/;

/** The same without a shift to WGS 84: its ellipsoid alone. */
export const onEllipsoid = (proj: string): string =>
  [...proj.split(' ').filter((word) => !/^\+(datum|towgs84)=/.test(word) && !ELLIPSOID.test(word)), ...ellipsoidOf(proj)].join(' ');

/** Degrees from Greenwich on its datum. */
export const degreesOn = (proj: string): string => ['+proj=longlat', ...ellipsoidOf(proj), '+no_defs'].join(' ');

/** In its own words: some projections of the library ask for the very ones that were given. */
function ellipsoidOf(proj: string): readonly string[] {
  const words = proj.split(' ').filter((word) => ELLIPSOID.test(word));
  return words.length > 0 ? words : [`+ellps=${(proj4.Proj(proj) as unknown as { readonly ellps: string }).ellps}`];
}
