/** Compares by Unicode code point, never by locale, so that outputs are the same on every machine. */
export function byCodePoint(a: string, b: string): number {
  if (a === b) return 0;
  const length = Math.min(a.length, b.length);
  for (let i = 0; i < length; i++) {
    const x = a.charCodeAt(i);
    const y = b.charCodeAt(i);
    if (x === y) continue;
    // UTF-16 puts surrogates below U+E000..U+FFFF; code points go the other way round.
    const xs = x >= 0xd800 && x <= 0xdfff;
    const ys = y >= 0xd800 && y <= 0xdfff;
    if (xs !== ys) return xs ? 1 : -1;
    return x - y;
  }
  return a.length - b.length;
}

export const sortedBy = <T>(items: Iterable<T>, key: (item: T) => string): T[] => [...items].sort((a, b) => byCodePoint(key(a), key(b)));
