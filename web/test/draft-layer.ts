import type { DraftLayer } from '@rootmap/core/contract';

/** A layer of a map that is drawn plainly, and what differs from that. */
export const draftLayer = (over: Partial<DraftLayer> = {}): DraftLayer => ({
  id: 'a',
  title: 'A',
  folder: null,
  active: true,
  opacity: 1,
  minScale: null,
  maxScale: null,
  filter: '',
  label: null,
  look: null,
  source: null,
  ...over,
});
