import { printField, printLiteral } from '../filter/print-filter.js';
import type { LookRule, VectorLook } from './look.js';

const rule = (title: string, filter: string | null, symbol: LookRule['symbol'], isElse = false): LookRule => ({
  title,
  filter,
  isElse,
  minScale: null,
  maxScale: null,
  symbol,
});

/** The rules that draw a look; a record meets at most one of them, but where it has rules of its own. */
export function rulesOfLook(look: VectorLook): readonly LookRule[] {
  switch (look.kind) {
    case 'one':
      return [rule('', null, look.symbol)];
    case 'by-value': {
      const field = printField(look.field);
      return [
        ...look.entries.map((e) => rule(e.title, e.value === null ? `${field} IS NULL` : `${field} = ${printLiteral(e.value)}`, e.symbol)),
        ...(look.other ? [rule('all others', null, look.other, true)] : []),
      ];
    }
    case 'by-class':
      return look.entries.map((e, i) => rule(e.title, classFilter(look.field, look.breaks, i), e.symbol));
    case 'rules':
      return look.rules;
  }
}

function classFilter(name: string, breaks: readonly number[], i: number): string {
  const field = printField(name);
  const isLast = i === breaks.length - 2;
  return `${field} >= ${breaks[i]!} AND ${field} ${isLast ? '<=' : '<'} ${breaks[i + 1]!}`;
}

/** Fields that a look needs; the filters of its rules are parsed where they are used. */
export const fieldOfLook = (look: VectorLook): string | null => (look.kind === 'by-value' || look.kind === 'by-class' ? look.field : null);
