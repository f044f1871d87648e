import type { DigitiseRequest, DrawnGeometry, EditableRecord, ShownValue } from '@rootmap/core/contract';
import type { Field } from '@rootmap/core';

/** A record while it is edited. */
export interface EditedRecord {
  /** Stays the same while the page is open. */
  readonly key: number;
  /** Its id in the dataset; null: it is new. */
  readonly id: number | null;
  readonly geometry: DrawnGeometry | null;
  readonly values: readonly ShownValue[];
  readonly isMoved: boolean;
}
export interface Session {
  readonly past: readonly Edited[];
  readonly now: Edited;
  readonly future: readonly Edited[];
}
interface Edited {
  readonly fields: readonly Field[];
  readonly records: readonly EditedRecord[];
}
export type SessionEvent =
  | { readonly type: 'draw'; readonly geometry: DrawnGeometry }
  | { readonly type: 'reshape'; readonly shapes: ReadonlyMap<number, DrawnGeometry> }
  | { readonly type: 'set'; readonly key: number; readonly field: number; readonly value: ShownValue }
  | { readonly type: 'remove'; readonly key: number }
  | { readonly type: 'add-field'; readonly field: Field }
  | { readonly type: 'undo' }
  | { readonly type: 'redo' };

export function openSession(fields: readonly Field[], records: readonly EditableRecord[]): Session {
  const now: Edited = {
    fields,
    records: records.map((r, i) => ({ key: i, id: r.id, geometry: r.geometry, values: r.values, isMoved: false })),
  };
  return { past: [], now, future: [] };
}

/** The key that the next new record gets. */
export const nextKey = (records: readonly EditedRecord[]): number => records.reduce((most, r) => Math.max(most, r.key), -1) + 1;

/** Pure. Each event but undo and redo is one step to take back. */
export function stepSession(s: Session, e: SessionEvent): Session {
  if (e.type === 'undo') {
    const before = s.past.at(-1);
    return before ? { past: s.past.slice(0, -1), now: before, future: [s.now, ...s.future] } : s;
  }
  if (e.type === 'redo') {
    const [next, ...rest] = s.future;
    return next ? { past: [...s.past, s.now], now: next, future: rest } : s;
  }
  return { past: [...s.past, s.now], now: edited(s.now, e), future: [] };
}

function edited(now: Edited, e: Exclude<SessionEvent, { type: 'undo' | 'redo' }>): Edited {
  const { records } = now;
  switch (e.type) {
    case 'draw':
      return {
        ...now,
        records: [...records, { key: nextKey(records), id: null, geometry: e.geometry, values: now.fields.map(() => null), isMoved: true }],
      };
    case 'reshape':
      return { ...now, records: records.map((r) => (e.shapes.has(r.key) ? { ...r, geometry: e.shapes.get(r.key)!, isMoved: true } : r)) };
    case 'set':
      return {
        ...now,
        records: records.map((r) =>
          r.key === e.key ? { ...r, values: now.fields.map((_, i) => (i === e.field ? e.value : (r.values[i] ?? null))) } : r,
        ),
      };
    case 'remove':
      return { ...now, records: records.filter((r) => r.key !== e.key) };
    case 'add-field':
      return { fields: [...now.fields, e.field], records: records.map((r) => ({ ...r, values: [...r.values, null] })) };
  }
}

/** What a save writes: only records that are not as they were. */
export function editsOf(before: Session['now'], now: Session['now']): Pick<DigitiseRequest, 'added' | 'changed' | 'removed' | 'newFields'> {
  const known = new Map(before.records.map((r) => [r.id, r]));
  const here = new Set(now.records.map((r) => r.id));
  const newFields = now.fields.slice(before.fields.length);
  const isOther = (r: EditedRecord): boolean =>
    r.isMoved ||
    JSON.stringify(r.values.slice(0, before.fields.length)) !== JSON.stringify(known.get(r.id)?.values) ||
    r.values.slice(before.fields.length).some((v) => v !== null);
  return {
    newFields,
    added: now.records.filter((r) => r.id === null).map(({ geometry, values }) => ({ geometry, values })),
    changed: now.records
      .filter((r) => r.id !== null && isOther(r))
      .map((r) => ({ id: r.id!, values: r.values, ...(r.isMoved ? { geometry: r.geometry } : {}) })),
    removed: before.records.filter((r) => !here.has(r.id)).map((r) => r.id!),
  };
}

export const countOf = (e: ReturnType<typeof editsOf>): number => e.added.length + e.changed.length + e.removed.length + e.newFields.length;
