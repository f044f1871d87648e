import { unportableName } from './portable-name.js';
import type { Umlauts } from './ascii.js';

/** `underscore`: letters, digits and underscore. `plain`: letters and digits only. `portable`: what all systems take. */
export type RuleSet = 'underscore' | 'plain' | 'portable';
export const RULE_SETS: readonly RuleSet[] = ['underscore', 'plain', 'portable'];
/** Lengths that standards set, each with whose limit it is. */
export const LENGTH_LIMITS = [
  { most: 8, of: 'file names of FAT without long names (ECMA-107, 11.1.1)' },
  { most: 10, of: 'names of fields in dBASE tables, and so in shapefiles' },
] as const;

export interface NamingRules {
  readonly rules: RuleSet;
  /** Longest name without its ending; null: no limit of a tool. */
  readonly limit: number | null;
  readonly umlauts: Umlauts;
  /** What new names are made of, such as `{site}_{topic}_{year}`; null: none. */
  readonly pattern: string | null;
  /** Values that fill a pattern in, by the name of their part. */
  readonly values: Readonly<Record<string, string>>;
}

export const DEFAULT_NAMING: NamingRules = { rules: 'underscore', limit: null, umlauts: 'ae', pattern: null, values: {} };

type RuleCode =
  | 'space'
  | 'dash'
  | 'dot'
  | 'slash'
  | 'exclamation'
  | 'underscore'
  | 'character'
  | 'first-digit'
  | 'first-letter'
  | 'too-long'
  | 'portable'
  | 'empty';

export interface RuleBreach {
  readonly rule: RuleCode;
  /** What is wrong and why it matters, a clause. */
  readonly message: string;
}

/** Why each rule is there. The reasons are common practice, no source, but for `portable` (Microsoft Learn, "Naming Files"). */
const WHY: Readonly<Record<Exclude<RuleCode, 'too-long' | 'portable'>, string>> = {
  space: 'it has a space, at which scripts and older tools cut a name off',
  dash: 'it has a dash, which tools that compute with names read as minus',
  dot: 'it has a dot before its ending, after which some tools expect the ending',
  slash: 'it has a slash, which parts folders',
  exclamation: 'it has an exclamation mark, which some tools take for the start of a part inside a container',
  underscore: 'it has an underscore, and this project keeps to letters and digits',
  character: 'it has a letter or sign that not every tool reads the same way',
  'first-digit': 'it begins with a digit, which field and table names may not',
  'first-letter': 'it does not begin with a letter, which the most particular tools ask for',
  empty: 'nothing is left of it',
};

const breach = (rule: keyof typeof WHY): RuleBreach => ({ rule, message: WHY[rule] });

/**
 * Every rule that a name breaks.
 * @param stem the name without its ending; for a folder the whole name
 * @param mayBeginWithDigit folders at the top of a numbered plan
 */
export function breachesOf(stem: string, naming: NamingRules, mayBeginWithDigit = false): RuleBreach[] {
  const found: RuleBreach[] = [];
  if (stem === '') return [breach('empty')];
  if (naming.rules !== 'portable') {
    if (/\s/.test(stem)) found.push(breach('space'));
    if (/[-\u2010-\u2015]/.test(stem)) found.push(breach('dash'));
    if (stem.includes('.')) found.push(breach('dot'));
    if (/[/\\]/.test(stem)) found.push(breach('slash'));
    if (stem.includes('!')) found.push(breach('exclamation'));
    if (naming.rules === 'plain' && stem.includes('_')) found.push(breach('underscore'));
    if (/[^A-Za-z0-9_\s\-\u2010-\u2015./\\!]/.test(stem)) found.push(breach('character'));
    if (/^[0-9]/.test(stem) && !mayBeginWithDigit) found.push(breach('first-digit'));
    if (stem.startsWith('_')) found.push(breach('first-letter'));
  }
  if (naming.limit !== null && stem.length > naming.limit)
    found.push({ rule: 'too-long', message: `it has ${stem.length} characters, and ${naming.limit} is the most that this project allows` });
  const unportable = unportableName(stem);
  if (unportable && !found.some((f) => f.rule === 'slash' || f.rule === 'character' || f.rule === 'space'))
    found.push({ rule: 'portable', message: `${unportable}, so not every system can hold it` });
  return found;
}
