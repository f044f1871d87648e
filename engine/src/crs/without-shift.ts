/** PROJ strings of two CRSs. Of one datum nothing is shifted: there and back again would cost some millimetres. */
export function withoutShift(from: string, to: string): [string, string] {
  const shift = /\+towgs84=\S+/.exec(from)?.[0];
  return shift !== undefined && to.split(' ').includes(shift) ? [from.replace(shift, ''), to.replace(shift, '')] : [from, to];
}
