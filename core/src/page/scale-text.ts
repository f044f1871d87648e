/** Digits in groups of three. */
export const grouped = (n: number, digits: number): string => n.toFixed(digits).replace(/\B(?=(\d{3})+(?!\d))/g, '\u202f');
const plain = (n: number): string => n.toLocaleString('en-GB').replaceAll(',', '\u202f');

/** `1:25 000`; a number alone is one, too. Null: it is no scale. */
export function readScale(text: string): number | null {
  const m = /^\s*(?:1\s*[:/])?\s*(\d[\d\s,.\u202f']*)\s*$/.exec(text);
  const n = m ? Number(m[1]!.replace(/[\s,.\u202f']/g, '')) : NaN;
  return n >= 1 && n <= 1e9 ? n : null;
}
export const scaleText = (scale: number): string => `1:${grouped(Math.round(scale), 0)}`;

/** A length on the ground as a bar says it. */
export const lengthText = (metres: number): string =>
  metres >= 1000 ? `${plain(metres / 1000)} km` : metres >= 1 ? `${plain(metres)} m` : `${metres * 100} cm`;
