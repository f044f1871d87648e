import type { NamingRules } from './rules.js';
import { proposeName } from './propose.js';

/** Parts that a name pattern can have. */
const PATTERN_PARTS = ['site', 'topic', 'year', 'initials', 'number'] as const;

/** What is wrong with a pattern; null: nothing. */
export function patternFault(pattern: string): string | null {
  for (const [, part] of pattern.matchAll(/\{([^}]*)\}/g))
    if (!(PATTERN_PARTS as readonly string[]).includes(part!))
      return `"{${part}}" is no part of a name: use ${PATTERN_PARTS.map((p) => `{${p}}`).join(' ')}`;
  return pattern.replace(/\{[^}]*\}/g, '').match(/[{}]/) ? 'a brace is not closed' : null;
}

/**
 * Fills a pattern in. `{year}` is the year given; `{number}` counts from 01 to the first that is free.
 * Parts without a value are left out with their joint.
 */
export function fillPattern(
  naming: NamingRules,
  values: Readonly<Record<string, string>>,
  year: number,
  isTaken: (lowerCase: string) => boolean,
): string {
  const pattern = naming.pattern ?? '{topic}';
  const known: Record<string, string> = { year: String(year), ...naming.values, ...values };
  const fill = (number: string): string =>
    proposeName(
      pattern
        .replace(/\{([^}]*)\}/g, (_, part: string) => (part === 'number' ? number : (known[part] ?? '').trim()))
        .replace(/[_\- ]{2,}/g, '_')
        .replace(/^[_\- ]+|[_\- ]+$/g, ''),
      naming,
    );
  if (!pattern.includes('{number}')) return proposeName(fill(''), naming, isTaken);
  for (let n = 1; ; n++) {
    const name = fill(String(n).padStart(2, '0'));
    if (!isTaken(name.toLowerCase())) return name;
  }
}
