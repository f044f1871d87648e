import type { Condition, Operand } from './expression.js';

const RESERVED = /^(and|or|not|in|like|ilike|is|null|between|true|false)$/i;
const isPlain = (name: string): boolean => /^[\p{L}_][\p{L}\p{N}_]*$/u.test(name) && !RESERVED.test(name);

/** A field as a filter has it: in double quotes where it is no plain name. */
export const printField = (name: string): string => (isPlain(name) ? name : `"${name.replaceAll('"', '""')}"`);
export const printLiteral = (value: string | number | boolean): string =>
  typeof value === 'string' ? `'${value.replaceAll("'", "''")}'` : String(value);

function printOperand(o: Operand): string {
  if ('field' in o) return printField(o.field);
  if ('literal' in o) return printLiteral(o.literal);
  return `(${printOperand(o.left)} ${o.op} ${printOperand(o.right)})`;
}

/** A condition as text of CQL2. Law: parsing it gives the condition again. */
export function printFilter(c: Condition): string {
  const inner = (part: Condition): string => ('parts' in part ? `(${printFilter(part)})` : printFilter(part));
  switch (c.op) {
    case 'and':
    case 'or':
      return c.parts.map(inner).join(` ${c.op.toUpperCase()} `);
    case 'not':
      return `NOT (${printFilter(c.part)})`;
    case 'null':
      return `${printOperand(c.value)} IS NULL`;
    case 'in':
      return `${printOperand(c.value)} IN (${c.list.map(printOperand).join(', ')})`;
    case 'like':
      return `${printOperand(c.value)} ${c.ignoresCase ? 'ILIKE' : 'LIKE'} ${printLiteral(c.pattern)}`;
    case 'between':
      return `${printOperand(c.value)} BETWEEN ${printOperand(c.low)} AND ${printOperand(c.high)}`;
    default:
      return `${printOperand(c.left)} ${c.op} ${printOperand(c.right)}`;
  }
}
