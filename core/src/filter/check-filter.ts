import type { Field, FieldType } from '../dataset/dataset.js';
import { fieldsOf, type Condition, type Operand } from './expression.js';
import { parseFilter } from './parse-filter.js';

export interface FilterFault {
  /** Offset in the text where it is known, else null. */
  readonly at: number | null;
  readonly why: string;
}

const family = (type: FieldType): 'number' | 'text' | 'yes-no' | 'other' =>
  type === 'integer' || type === 'integer64' || type === 'real'
    ? 'number'
    : type === 'boolean'
      ? 'yes-no'
      : type === 'text' || type === 'date' || type === 'datetime'
        ? 'text'
        : 'other';

/** What is wrong with a filter on these fields; nothing where it can be used. An empty text is no filter. */
export function checkFilter(text: string, fields: readonly Field[] | null): FilterFault[] {
  if (text.trim() === '') return [];
  const parsed = parseFilter(text);
  if (!parsed.ok) return [{ at: parsed.at, why: parsed.why }];
  if (!fields) return [];
  const known = new Map(fields.map((f) => [f.name, f.type]));
  const missing = fieldsOf(parsed.condition).filter((name) => !known.has(name));
  if (missing.length > 0)
    return missing.map((name) => ({ at: text.indexOf(name), why: `there is no field "${name}"${nearest(name, fields)}` }));
  return mixed(parsed.condition, known);
}

function nearest(name: string, fields: readonly Field[]): string {
  const twin = fields.find((f) => f.name.toLowerCase() === name.toLowerCase());
  return twin ? `; there is "${twin.name}"` : '';
}

/** Comparisons of text with numbers, which no record can meet as it is meant. */
function mixed(c: Condition, types: ReadonlyMap<string, FieldType>): FilterFault[] {
  if ('parts' in c) return c.parts.flatMap((p) => mixed(p, types));
  if ('part' in c) return mixed(c.part, types);
  const against = (value: Operand, others: readonly Operand[]): FilterFault[] =>
    'field' in value ? others.flatMap((o) => clash(value.field, o, types)) : [];
  if ('left' in c) return [...against(c.left, [c.right]), ...against(c.right, [c.left])];
  if (c.op === 'in') return against(c.value, c.list);
  if (c.op === 'between') return against(c.value, [c.low, c.high]);
  return [];
}

function clash(field: string, other: Operand, types: ReadonlyMap<string, FieldType>): FilterFault[] {
  if (!('literal' in other)) return [];
  const kind = family(types.get(field)!);
  const { literal } = other;
  if (kind === 'number' && typeof literal === 'string' && Number.isNaN(Number(literal)))
    return [{ at: null, why: `"${field}" holds numbers, and '${literal}' is text` }];
  if (kind === 'text' && typeof literal === 'number')
    return [{ at: null, why: `"${field}" holds text: write '${literal}' in single quotes` }];
  return [];
}
