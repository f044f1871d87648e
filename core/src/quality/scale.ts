/**
 * The scale that a detail of some metres bears, as its denominator: what can be told apart is a thousandth of the denominator in
 * metres, and it takes two pixels, or corners, to show it (Tobler 1987, Measuring spatial resolution; from memory).
 */
export const scaleBorne = (metres: number): number => metres * 2 * 1000;

/** As scales are named: to two digits. */
export function scaleWords(denominator: number): string {
  const digits = 10 ** Math.max(0, Math.floor(Math.log10(denominator)) - 1);
  return `1:${String(Math.max(1, Math.round(denominator / digits) * digits)).replace(/\B(?=(\d{3})+(?!\d))/g, ' ')}`;
}
