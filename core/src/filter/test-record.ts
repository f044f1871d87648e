import type { Value } from '../feature/feature.js';
import type { Condition, Operand } from './expression.js';
import { likePattern } from './like-pattern.js';

/** The value of a field of the record that is tested; undefined: it has no such field. */
export type ValueOf = (field: string) => Value | undefined;
type Plain = string | number | bigint | boolean | null;

/**
 * True, false, or null where it is not known: every comparison with a missing value is unknown, as in SQL and CQL2
 * (OGC 21-065r2, 7.2). A record is drawn where the answer is true.
 */
export function testRecord(c: Condition, valueOf: ValueOf): boolean | null {
  switch (c.op) {
    case 'and':
      return every(c.parts, valueOf);
    case 'or': {
      const none = every(
        c.parts.map((part) => ({ op: 'not', part }) as const),
        valueOf,
      );
      return none === null ? null : !none;
    }
    case 'not': {
      const inner = testRecord(c.part, valueOf);
      return inner === null ? null : !inner;
    }
    case 'null':
      return valueAt(c.value, valueOf) === null;
    case 'in': {
      const value = valueAt(c.value, valueOf);
      const orders = c.list.map((o) => compare(value, valueAt(o, valueOf)));
      return orders.includes(0) ? true : orders.includes(null) ? null : false;
    }
    case 'between': {
      const value = valueAt(c.value, valueOf);
      const [low, high] = [compare(value, valueAt(c.low, valueOf)), compare(value, valueAt(c.high, valueOf))];
      if ((low !== null && low < 0) || (high !== null && high > 0)) return false;
      return low === null || high === null ? null : true;
    }
    case 'like': {
      const value = valueAt(c.value, valueOf);
      return value === null ? null : matches(c.pattern, c.ignoresCase, String(value));
    }
    default: {
      const order = compare(valueAt(c.left, valueOf), valueAt(c.right, valueOf));
      if (order === null) return null;
      return { '=': order === 0, '<>': order !== 0, '<': order < 0, '<=': order <= 0, '>': order > 0, '>=': order >= 0 }[c.op];
    }
  }
}

function every(parts: readonly Condition[], valueOf: ValueOf): boolean | null {
  let known = true;
  for (const part of parts) {
    const answer = testRecord(part, valueOf);
    if (answer === false) return false;
    if (answer === null) known = false;
  }
  return known ? true : null;
}

function valueAt(o: Operand, valueOf: ValueOf): Plain {
  if ('field' in o) {
    const value = valueOf(o.field);
    return value === undefined || value instanceof Uint8Array ? null : value;
  }
  if ('literal' in o) return o.literal;
  const [a, b] = [numberOf(valueAt(o.left, valueOf)), numberOf(valueAt(o.right, valueOf))];
  if (a === null || b === null || (o.op === '/' && b === 0)) return null;
  return { '+': a + b, '-': a - b, '*': a * b, '/': a / b }[o.op];
}

const numberOf = (v: Plain): number | null => {
  const n = typeof v === 'string' && v.trim() === '' ? NaN : Number(v ?? NaN);
  return Number.isNaN(n) ? null : n;
};

/** Below, equal or above; numbers as numbers wherever one side is one. Null: nobody can say. */
function compare(a: Plain, b: Plain): number | null {
  if (a === null || b === null) return null;
  if (typeof a === 'string' && typeof b === 'string') return a < b ? -1 : a > b ? 1 : 0;
  if (typeof a === 'bigint' && typeof b === 'bigint') return a < b ? -1 : a > b ? 1 : 0;
  const [x, y] = [numberOf(a), numberOf(b)];
  return x === null || y === null ? null : x - y;
}

const patterns = new Map<string, (text: string) => boolean>();
function matches(pattern: string, ignoresCase: boolean, text: string): boolean {
  const key = `${ignoresCase ? 'i' : ''}:${pattern}`;
  let found = patterns.get(key);
  if (!found) {
    if (patterns.size > 200) patterns.clear();
    patterns.set(key, (found = likePattern(pattern, ignoresCase)));
  }
  return found(text);
}
