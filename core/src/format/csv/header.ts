import type { Field } from '../../dataset/dataset.js';
import { ColumnType } from './column-type.js';

/** Columns that are looked at. */
export const MOST_FIELDS = 2000;
const LONGEST_NAME = 400;

/** Names of the first row, made usable. */
export const namesOf = (row: readonly string[]): string[] =>
  row.slice(0, MOST_FIELDS).map(
    (name, i) =>
      name
        .slice(0, LONGEST_NAME)
        .replace(/^\uFEFF/, '')
        .trim() || `field_${i + 1}`,
  );

/** Names for a table that has none. */
export const madeUpNames = (count: number): string[] => Array.from({ length: count }, (_, i) => `field_${i + 1}`);

/** The first row of a table is the one that its fields are called by. */
export function areNames(row: readonly string[], fields: readonly Field[]): boolean {
  const names = namesOf(row);
  return names.length === fields.length && names.every((name, i) => name === fields[i]!.name);
}

/**
 * Whether the first row names the columns: it does not where it has values as the columns below have (numbers, days) and none of its
 * cells stands as text above such a column. Years above numbers are names. Null: there is nothing below to tell by, but numbers.
 * @param below of the columns without the first row
 */
export function isHeader(first: readonly string[], below: readonly ColumnType[], rows: number): boolean {
  const isTyped = (cell: string): boolean => {
    const type = new ColumnType();
    if (cell.trim() === '') return false;
    type.add(cell.trim());
    return type.isTyped;
  };
  const typed = first.map(isTyped);
  if (!typed.includes(true)) return true;
  if (rows === 0) return typed.includes(false);
  if (first.some((cell, i) => cell.trim() !== '' && !typed[i] && below[i]?.isTyped)) return true;
  const numbers = first.filter((_, i) => typed[i]);
  const areYears = numbers.every((n) => /^(1[89]|20)\d\d$/.test(n.trim())) && new Set(numbers).size === numbers.length;
  return areYears && numbers.length > 1 && typed.includes(false);
}
