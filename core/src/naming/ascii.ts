import anyAscii from 'any-ascii';

/** How letters with two dots are written: `ä` as `ae` (German practice) or as `a`. */
export type Umlauts = 'ae' | 'a';

const GERMAN: Readonly<Record<string, string>> = { ä: 'ae', ö: 'oe', ü: 'ue', Ä: 'Ae', Ö: 'Oe', Ü: 'Ue', ß: 'ss', ẞ: 'SS' };

/** The same text in letters that every tool takes. Scripts other than Latin by the tables of the any-ascii package. */
export function toAscii(text: string, umlauts: Umlauts = 'ae'): string {
  const composed = text.normalize('NFC');
  return anyAscii(umlauts === 'ae' ? composed.replace(/[äöüÄÖÜßẞ]/g, (ch) => GERMAN[ch]!) : composed);
}
