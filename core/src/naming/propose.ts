import { unportableName, utf8Bytes } from './portable-name.js';
import { toAscii } from './ascii.js';
import { breachesOf, type NamingRules } from './rules.js';

const FALLBACK = 'unnamed';

/**
 * A name that keeps the rules, as near to the old one as may be. A name that keeps them already comes back unchanged.
 * @param stem the name without its ending
 * @param isTaken told names in lower case, as systems that ignore case would compare them
 */
export function proposeName(
  stem: string,
  naming: NamingRules,
  isTaken: (lowerCase: string) => boolean = () => false,
  mayBeginWithDigit = false,
): string {
  const safe = breachesOf(stem, naming, mayBeginWithDigit).length === 0 ? stem : makeSafe(stem, naming, mayBeginWithDigit);
  const limit = naming.limit ?? Infinity;
  if (!isTaken(safe.toLowerCase())) return safe;
  for (let n = 2; ; n++) {
    const suffix = naming.rules === 'plain' ? String(n) : `_${n}`;
    const numbered = safe.slice(0, Math.max(1, limit - suffix.length)).replace(/_+$/, '') + suffix;
    if (!isTaken(numbered.toLowerCase())) return numbered;
  }
}

function makeSafe(stem: string, naming: NamingRules, mayBeginWithDigit: boolean): string {
  const joint = naming.rules === 'plain' ? '' : '_';
  let name = naming.rules === 'portable' ? portable(stem) : latin(stem, naming, joint);
  if (naming.rules !== 'portable' && !mayBeginWithDigit && /^[0-9]/.test(name)) name = digitsLast(name, joint);
  if (naming.limit !== null) name = shorten(name, naming.limit, joint);
  if (name === '') name = FALLBACK.slice(0, naming.limit ?? undefined);
  if (unportableName(name)) name = `${name.slice(0, (naming.limit ?? Infinity) - 1)}${naming.rules === 'plain' ? 'x' : '_'}`; // a device's name
  return name;
}

/** Words stay words: what is left out becomes a joint; without joints, words are told by their capitals. */
function latin(stem: string, naming: NamingRules, joint: string): string {
  const words = toAscii(stem, naming.umlauts)
    .replace(/['’`]/g, '')
    .split(joint === '' ? /[^A-Za-z0-9]+/ : /[^A-Za-z0-9_]+/)
    .filter(Boolean);
  const isOneWord = words.length === 1;
  const joined =
    joint === '' && !isOneWord ? words.map((w, i) => (i === 0 ? w : w[0]!.toUpperCase() + w.slice(1))).join('') : words.join(joint);
  return joined.replace(/_{2,}/g, '_').replace(/^_+|_+$/g, '');
}

/** Leaves room for an ending and a number below what a name may have in bytes. */
const MOST_BYTES = 235;

function portable(stem: string): string {
  let name = stem.normalize('NFC').replace(/[\u0000-\u001f<>:"/\\|?*]+/g, '_');
  if (utf8Bytes(name) > MOST_BYTES) {
    const letters = [...name];
    while (utf8Bytes(letters.join('')) > MOST_BYTES) letters.pop();
    name = letters.join('');
  }
  return name.replace(/[ .]+$/, '');
}

/** `2019_beds` → `beds_2019`: the number keeps its meaning. A name of digits alone gets a letter. */
function digitsLast(name: string, joint: string): string {
  const m = /^([0-9]+)_*(.*)$/.exec(name)!;
  const rest = m[2]!;
  if (rest === '') return `n${m[1]!}`;
  if (/^[0-9]/.test(rest)) return `n${name}`;
  return `${rest}${joint}${m[1]!}`;
}

/** Vowels inside words go first, since consonants carry a word; then the end is cut. */
function shorten(name: string, limit: number, joint: string): string {
  let short = name;
  while (short.length > limit) {
    const at = short.search(/(?<=[A-Za-z])[aeiou](?=[a-z_0-9]*$)/);
    const last = lastVowel(short);
    if (at < 0 || last < 0) return short.slice(0, limit).replace(joint === '' ? /$^/ : /_+$/, '');
    short = short.slice(0, last) + short.slice(last + 1);
  }
  return short;
}

function lastVowel(name: string): number {
  for (let i = name.length - 1; i > 0; i--) if (/[aeiou]/.test(name[i]!) && /[A-Za-z]/.test(name[i - 1]!)) return i;
  return -1;
}
