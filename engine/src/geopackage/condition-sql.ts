import type { Condition, Field, Operand } from '@rootmap/core';
import { quoteName } from './describe-geopackage.js';

export interface SqlCondition {
  readonly sql: string;
  readonly parameters: readonly (string | number)[];
}

const NUMBERS: ReadonlySet<Field['type']> = new Set(['integer', 'integer64', 'real']);
const COMPARISONS: ReadonlySet<string> = new Set(['=', '<>', '<', '<=', '>', '>=']);

/**
 * What SQLite can sort out beforehand: every row that meets the condition meets this too, and maybe others, so that what is left has to
 * be tested all the same. Null: nothing of the condition is told alike by SQLite.
 */
export function conditionSql(condition: Condition, fields: readonly Field[]): SqlCondition | null {
  const typeOf = (o: Operand): Field['type'] | null => ('field' in o ? (fields.find((f) => f.name === o.field)?.type ?? null) : null);
  const columnOf = (o: Operand): string => quoteName((o as { field: string }).field);
  /** A literal that a column of this type is compared with as SQLite does it. */
  const literalFor = (type: Field['type'], o: Operand, isEquality: boolean): string | number | null => {
    if (!('literal' in o)) return null;
    if (typeof o.literal === 'number') return NUMBERS.has(type) && Math.abs(o.literal) <= Number.MAX_SAFE_INTEGER ? o.literal : null;
    return typeof o.literal === 'string' && type === 'text' && isEquality ? o.literal : null;
  };
  const visit = (c: Condition): SqlCondition | null => {
    if (c.op === 'and' || c.op === 'or') {
      const parts = c.parts.map(visit);
      const known = parts.filter((p) => p !== null);
      if (known.length === 0 || (c.op === 'or' && known.length < parts.length)) return null;
      return {
        sql: `(${known.map((p) => p.sql).join(c.op === 'and' ? ' AND ' : ' OR ')})`,
        parameters: known.flatMap((p) => p.parameters),
      };
    }
    if (c.op === 'null') {
      const type = typeOf(c.value);
      return type === null || type === 'binary' ? null : { sql: `${columnOf(c.value)} IS NULL`, parameters: [] };
    }
    if (c.op === 'in') {
      const type = typeOf(c.value);
      const list = type === null ? [] : c.list.map((o) => literalFor(type, o, true));
      const known = list.filter((v) => v !== null);
      if (known.length === 0 || known.length < c.list.length) return null;
      return { sql: `${columnOf(c.value)} IN (${known.map(() => '?').join(', ')})`, parameters: known };
    }
    if (c.op === 'between') {
      const type = typeOf(c.value);
      const [low, high] = type === null ? [null, null] : [literalFor(type, c.low, false), literalFor(type, c.high, false)];
      return low === null || high === null ? null : { sql: `${columnOf(c.value)} BETWEEN ? AND ?`, parameters: [low, high] };
    }
    if (!COMPARISONS.has(c.op) || !('left' in c)) return null;
    const type = typeOf(c.left);
    const value = type === null ? null : literalFor(type, c.right, c.op === '=');
    return value === null ? null : { sql: `${columnOf(c.left)} ${c.op} ?`, parameters: [value] };
  };
  return visit(condition);
}
