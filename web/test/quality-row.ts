import type { QualityRow } from '@rootmap/core/contract';

/** What is known of a dataset that was checked, with nothing found, and what differs from that. */
export const qualityRow = (name: string, over: Partial<QualityRow> = {}): QualityRow => ({
  id: name,
  name,
  kind: 'vector',
  state: 'computed',
  problem: null,
  isReadOnly: false,
  elements: {},
  fails: 0,
  notes: 0,
  at: null,
  reviewer: null,
  lacks: [],
  ...over,
});
