/** A small seeded generator (mulberry32), so that the demo is the same everywhere. */
export function seeded(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

export type Random = () => number;
export const between = (random: Random, low: number, high: number): number => low + random() * (high - low);
export const pick = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
