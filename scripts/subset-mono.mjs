// Makes the font of paths and numbers small enough to be sent to whoever opens the app from another machine: the characters that names of
// files have as a rule, without the variants of each. Others come from the system's own font. Run by hand when the font or the ranges change.
import { copyFileSync, readFileSync, writeFileSync } from 'node:fs';
import subsetFont from 'subset-font';

const from = new URL('../node_modules/@fontsource/iosevka/', import.meta.url);
const to = new URL('../web/src/theme/fonts/', import.meta.url);
/** Blocks of Unicode: Latin with its marks, Greek, Cyrillic, punctuation, currencies, letterlike, arrows, operators, boxes and shapes. */
const RANGES = [
  [0x20, 0x7e],
  [0xa0, 0x24f],
  [0x300, 0x36f],
  [0x370, 0x3ff],
  [0x400, 0x52f],
  [0x1e00, 0x1eff],
  [0x2000, 0x206f],
  [0x20a0, 0x20c0],
  [0x2100, 0x214f],
  [0x2190, 0x21ff],
  [0x2200, 0x22ff],
  [0x2500, 0x25ff],
];
const all = RANGES.flatMap(([first, last]) => Array.from({ length: last - first + 1 }, (_, i) => first + i));
const whole = readFileSync(new URL('files/iosevka-latin-400-normal.woff2', from));
const small = await subsetFont(whole, String.fromCodePoint(...all), { targetFormat: 'woff2', noLayoutClosure: true });
writeFileSync(new URL('iosevka.woff2', to), small);
copyFileSync(new URL('LICENSE', from), new URL('iosevka-LICENSE.txt', to));
console.log(`${whole.length} bytes became ${small.length}`);
