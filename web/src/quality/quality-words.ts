import { ELEMENTS, type CheckResult, type Element, type SheetState } from '@rootmap/core';
import type { QualityRow } from '@rootmap/core/contract';

/** Heads of the matrix: the elements of ISO 19157, shortened. */
export const SHORT: Readonly<Record<Element, string>> = {
  commission: 'Doubles',
  omission: 'Missing',
  conceptual: 'Scheme',
  domain: 'Values',
  format: 'Format',
  topological: 'Shapes',
  positional: 'Position',
  temporal: 'Age',
  metadata: 'Metadata',
};
export const ALL_ELEMENTS = Object.keys(ELEMENTS) as Element[];

export const RESULT_WORD: Readonly<Record<CheckResult, string>> = { pass: 'fine', note: 'look', fail: 'fault' };
export const RESULT_TONE = { pass: 'spruce', note: 'ochre', fail: 'plum' } as const;

export const STATE_WORD: Readonly<Record<SheetState, string>> = {
  none: 'not looked at',
  computed: 'not reviewed',
  reviewed: 'reviewed',
  'out-of-date': 'out of date',
};
export const STATE_TONE = { none: 'slate', computed: 'ochre', reviewed: 'spruce', 'out-of-date': 'plum' } as const;

export type Only = 'all' | 'not-reviewed' | 'out-of-date' | 'to-do';
export const ONLY_WORD: Readonly<Record<Only, string>> = {
  all: 'All datasets',
  'not-reviewed': 'Not reviewed',
  'out-of-date': 'Out of date',
  'to-do': 'To do (faults)',
};
/** By name, by all that was found, by the sheet, or by what was found in one element. */
export type Order = 'name' | 'worst' | 'sheet' | Element;
export const ORDER_WORD: Readonly<Record<Order, string>> = {
  name: 'by name',
  worst: 'worst first',
  sheet: 'by sheet',
  ...(Object.fromEntries(ALL_ELEMENTS.map((e) => [e, `worst in ${SHORT[e]}`])) as Record<Element, string>),
};

const isWanted: Readonly<Record<Only, (row: QualityRow) => boolean>> = {
  all: () => true,
  'not-reviewed': (r) => r.state !== 'reviewed',
  'out-of-date': (r) => r.state === 'out-of-date',
  'to-do': (r) => r.fails > 0,
};

const URGENCY: Readonly<Record<SheetState, number>> = { 'out-of-date': 3, none: 2, computed: 1, reviewed: 0 };
const WEIGHT: Readonly<Record<CheckResult, number>> = { fail: 3, note: 2, pass: 1 };
const weightOf = (row: QualityRow, element: Element): number => {
  const found = row.elements[element];
  return found ? WEIGHT[found] : 0;
};

/** Rows that have all of the words, narrowed, in an order; the worst first has most faults first, then most to look at. */
export function rowsFor(rows: readonly QualityRow[], words: string, only: Only, order: Order): QualityRow[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const found = rows.filter((r) => isWanted[only](r) && wanted.every((w) => r.name.toLowerCase().includes(w)));
  const byName = (a: QualityRow, b: QualityRow): number => a.name.localeCompare(b.name, 'en');
  switch (order) {
    case 'name':
      return found.sort(byName);
    case 'worst':
      return found.sort((a, b) => b.fails - a.fails || b.notes - a.notes || byName(a, b));
    case 'sheet':
      return found.sort((a, b) => URGENCY[b.state] - URGENCY[a.state] || byName(a, b));
    default:
      return found.sort((a, b) => weightOf(b, order) - weightOf(a, order) || byName(a, b));
  }
}
