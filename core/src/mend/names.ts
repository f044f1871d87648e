/** Names that people change without meaning another dataset. */

export const stemOf = (fileName: string): string => fileName.replace(/\.[^.]*$/, '');

/** Case, accents, blanks, dashes and underscores do not count; the ending does not either. */
export function looseName(fileName: string): string {
  const stem = stemOf(fileName);
  const plain = isAscii(stem) ? stem : stem.normalize('NFD').replace(/\p{M}/gu, '');
  return plain.toLowerCase().replace(/[\s_\-.]+/g, '');
}

/** Most names are, and need no normalising: that is dear where there are many. */
const isAscii = (text: string): boolean => /^[ -~]*$/.test(text);

const SUFFIX = /([\s_\-.]*(?:\(\d+\)|copy(?:[\s_-]*\d+)?|v\d+|final|new|old|\d{1,2}))+$/i;

/** Without what is put behind a name when a copy is made: `_v2`, `-copy`, `(1)`, `final`. Empty where nothing would be left. */
export function bareName(fileName: string): string {
  const bare = stemOf(fileName).replace(SUFFIX, '');
  return bare.length >= 3 ? looseName(`${bare}.x`) : '';
}

export type NameMatch = 'same' | 'spelling' | 'suffix' | 'none';

export function matchNames(recorded: string, found: string): NameMatch {
  if (recorded.normalize('NFC') === found.normalize('NFC')) return 'same';
  if (looseName(recorded) === looseName(found)) return 'spelling';
  const a = bareName(recorded);
  const b = bareName(found);
  return a !== '' && a === b ? 'suffix' : 'none';
}

/** Folders in common, counted upwards from the name (the name itself left out). */
export function commonSuffix(a: readonly string[], b: readonly string[]): number {
  let n = 0;
  while (n + 1 < a.length && n + 1 < b.length && fold(a[a.length - 2 - n]!) === fold(b[b.length - 2 - n]!)) n++;
  return n;
}
export const fold = (name: string): string => (isAscii(name) ? name : name.normalize('NFC')).toLowerCase();
