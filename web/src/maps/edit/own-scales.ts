import { keptList } from '../../parts/kept-list.js';

/** Round scales that maps are often looked at in (common practice, no source). */
const USUAL: readonly number[] = [1000, 2500, 5000, 10_000, 25_000, 50_000, 100_000, 250_000, 1_000_000];
const MOST = 60;

const isScale = (n: unknown): n is number => typeof n === 'number' && Number.isFinite(n) && n > 0;
const list = keptList('rootmap.scales', isScale, MOST, USUAL);

const set = (next: readonly number[]): void => list.set([...new Set(next)].sort((a, b) => a - b));

/** The scales that a person goes to by name, the largest map first: kept in this browser, for all maps. */
export function useOwnScales() {
  const scales = list.use();
  return { scales, set, usual: list.forget, isUsual: scales === USUAL };
}
