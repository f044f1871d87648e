import type { StyleFilter } from './style-model.js';
import type { Field } from '../dataset/dataset.js';
import type { CompareOp, Condition, Operand } from '../filter/expression.js';

/** Filters as styles of the exchange model have them; null where a condition has parts that it cannot say (sums, two fields). */
export function toStyleFilter(c: Condition): StyleFilter | null {
  switch (c.op) {
    case 'and':
    case 'or': {
      const parts = c.parts.map(toStyleFilter);
      return parts.includes(null) ? null : [c.op === 'and' ? '&&' : '||', ...parts];
    }
    case 'not': {
      const part = toStyleFilter(c.part);
      return part === null ? null : ['!', part];
    }
    case 'null':
      return 'field' in c.value ? ['==', c.value.field, null] : null;
    case 'in':
      return toStyleFilter({ op: 'or', parts: c.list.map((right) => ({ op: '=', left: c.value, right })) });
    case 'between':
      return 'field' in c.value && isNumber(c.low) && isNumber(c.high) ? ['<=x<=', c.value.field, c.low.literal, c.high.literal] : null;
    case 'like':
      return 'field' in c.value && !c.ignoresCase ? ['*=', c.value.field, c.pattern.replaceAll('%', '*').replaceAll('_', '.')] : null;
    default:
      return 'field' in c.left && 'literal' in c.right
        ? [c.op === '=' ? '==' : c.op === '<>' ? '!=' : c.op, c.left.field, c.right.literal]
        : null;
  }
}
const isNumber = (o: Operand): o is { literal: number } => 'literal' in o && typeof o.literal === 'number';

/**
 * The other way. Literals of a style are text: they are numbers where the field is one, and in comparisons of size.
 * Null where the filter calls functions.
 */
export function fromStyleFilter(filter: unknown, fields: readonly Field[] | null): Condition | null {
  if (!Array.isArray(filter)) return null;
  const [op, ...args] = filter as [string, ...unknown[]];
  switch (op) {
    case '&&':
    case '||': {
      const parts = args.map((a) => fromStyleFilter(a, fields));
      if (parts.includes(null)) return null;
      return parts.length === 1 ? parts[0]! : { op: op === '&&' ? 'and' : 'or', parts: parts as Condition[] };
    }
    case '!': {
      const part = fromStyleFilter(args[0], fields);
      return part && { op: 'not', part };
    }
    case '<=x<=':
      return typeof args[0] === 'string'
        ? { op: 'between', value: { field: args[0] }, low: { literal: Number(args[1]) }, high: { literal: Number(args[2]) } }
        : null;
  }
  const [field, literal] = args;
  if (typeof field !== 'string' || typeof literal === 'object' ? literal !== null : literal === undefined) return null;
  const value: Operand = { field: field as string };
  if (op === '*=') return { op: 'like', value, pattern: String(literal).replaceAll('*', '%').replaceAll('.', '_'), ignoresCase: false };
  if (literal === null || literal === '') return op === '==' ? { op: 'null', value } : { op: 'not', part: { op: 'null', value } };
  const compare: CompareOp = op === '==' ? '=' : op === '!=' ? '<>' : (op as CompareOp);
  return { op: compare, left: value, right: { literal: typed(literal as string | number | boolean, field as string, compare, fields) } };
}

function typed(
  literal: string | number | boolean,
  name: string,
  op: CompareOp,
  fields: readonly Field[] | null,
): string | number | boolean {
  if (typeof literal !== 'string') return literal;
  const type = fields?.find((f) => f.name === name)?.type;
  const isNumeric = literal.trim() !== '' && !Number.isNaN(Number(literal));
  if (type === 'boolean') return literal === 'true' || literal === '1';
  const asNumber = type === undefined ? op !== '=' && op !== '<>' : ['integer', 'integer64', 'real'].includes(type);
  return asNumber && isNumeric ? Number(literal) : literal;
}
