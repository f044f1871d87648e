import type { Field } from '@rootmap/core';
import { ProblemError } from '@rootmap/core';
import type { RowCondition, RowsRequest } from '@rootmap/core/contract';
import { quoteName } from '../geopackage/describe-geopackage.js';

export interface RowQuery {
  /** `WHERE … ORDER BY …` */
  readonly tail: string;
  readonly parameters: readonly (string | number | bigint)[];
}

const IS_NUMBER: ReadonlySet<Field['type']> = new Set(['integer', 'integer64', 'real']);
const SIGN: Readonly<Record<string, string>> = { '=': '=', '≠': '<>', '<': '<', '≤': '<=', '>': '>', '≥': '>=' };

/**
 * What a person asks of rows, as SQL over a table with these fields. Text is equal where it is the same to the letter, as in the filter
 * of a layer; it is searched and ordered without regard to case. Empty values come last.
 */
export function rowQuery(request: Pick<RowsRequest, 'sort' | 'find' | 'where'>, fields: readonly Field[], key: string): RowQuery {
  const parameters: (string | number | bigint)[] = [];
  const fieldOf = (name: string): Field => {
    const field = fields.find((f) => f.name === name);
    if (!field) throw new ProblemError({ code: 'not-found', what: 'field', id: name });
    return field;
  };
  const test = (condition: RowCondition): string => {
    const field = fieldOf(condition.field);
    const column = quoteName(field.name);
    if (condition.test === 'empty') return `(${column} IS NULL OR ${column} = '')`;
    if (condition.test === 'filled') return `(${column} IS NOT NULL AND ${column} <> '')`;
    if (condition.test === 'contains') return contains(column, condition.value, parameters);
    const value = valueOf(field, condition.value);
    parameters.push(value);
    const isOrder = condition.test !== '=' && condition.test !== '≠';
    return `${column} ${SIGN[condition.test]} ?${isOrder ? ' COLLATE NOCASE' : ''}`;
  };
  const found = request.find.trim();
  const searched = fields.filter((f) => f.type !== 'binary');
  const all = [
    ...(found === '' ? [] : [`(${searched.map((f) => contains(quoteName(f.name), found, parameters)).join(' OR ') || '0'})`]),
    ...request.where.map(test),
  ];
  const where = all.length > 0 ? `WHERE ${all.join(' AND ')}` : '';
  const { sort } = request;
  const column = sort && quoteName(fieldOf(sort.field).name);
  const order = column ? `${column} IS NULL, ${column} COLLATE NOCASE ${sort.isDescending ? 'DESC' : 'ASC'}, ` : '';
  return { tail: `${where} ORDER BY ${order}${quoteName(key)}`, parameters };
}

function contains(column: string, text: string, parameters: (string | number | bigint)[]): string {
  parameters.push(`%${text.replace(/[\\%_]/g, (c) => `\\${c}`)}%`);
  return `${column} LIKE ? ESCAPE '\\'`;
}

/** A number is compared with numbers, and `yes` or `no` with what is stored for them. */
function valueOf(field: Field, text: string): string | number | bigint {
  if (field.type === 'boolean') return /^(1|true|yes)$/i.test(text.trim()) ? 1 : 0;
  if (!IS_NUMBER.has(field.type)) return text;
  if (/^[-+]?\d{16,18}$/.test(text.trim())) return BigInt(text.trim());
  const number = Number(text.trim().replace(',', '.'));
  if (text.trim() === '' || Number.isNaN(number))
    throw new ProblemError({ code: 'wrong-use', message: `${field.name} holds numbers, and "${text}" is none.` });
  return number;
}
