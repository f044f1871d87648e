import { mergeDrafts, sameJson } from '@rootmap/core';
import type { MapDraft } from '@rootmap/core/contract';

/** A map while it is edited: what it was, is, and was before a step was taken back. */
export interface DraftHistory {
  readonly past: readonly MapDraft[];
  readonly now: MapDraft;
  readonly future: readonly MapDraft[];
  /** As the file has it. */
  readonly saved: MapDraft;
  /** What the last step edited: further steps of the same thing are one step to take back. */
  readonly touched: string | null;
}
export type DraftEvent =
  | { readonly type: 'edit'; readonly draft: MapDraft; readonly what: string | null }
  | { readonly type: 'undo' }
  | { readonly type: 'redo' }
  | { readonly type: 'saved'; readonly draft: MapDraft }
  | { readonly type: 'open'; readonly saved: MapDraft; readonly now: MapDraft }
  /** The file is another one; `taken`: what was changed in both and is as the file has it. */
  | { readonly type: 'merge'; readonly saved: MapDraft; readonly taken: ReadonlySet<string> };

const MOST_STEPS = 200;

export const openDraft = (saved: MapDraft, now = saved): DraftHistory => ({ past: [], now, future: [], saved, touched: null });

export function stepDraft(h: DraftHistory, e: DraftEvent): DraftHistory {
  switch (e.type) {
    case 'edit': {
      if (sameJson(e.draft, h.now)) return h;
      const isSame = e.what !== null && e.what === h.touched;
      return { ...h, past: isSame ? h.past : [...h.past, h.now].slice(-MOST_STEPS), now: e.draft, future: [], touched: e.what };
    }
    case 'undo': {
      const before = h.past.at(-1);
      return before ? { ...h, past: h.past.slice(0, -1), now: before, future: [h.now, ...h.future], touched: null } : h;
    }
    case 'redo': {
      const [next, ...rest] = h.future;
      return next ? { ...h, past: [...h.past, h.now], now: next, future: rest, touched: null } : h;
    }
    case 'saved':
      return { ...h, saved: e.draft, touched: null };
    case 'open':
      return openDraft(e.saved, e.now);
    case 'merge': {
      // Every step is put on what the file has now, so that none takes back what somebody else did.
      const rebased = (draft: MapDraft): MapDraft => mergeDrafts(h.saved, draft, e.saved, e.taken).draft;
      return { past: h.past.map(rebased), now: rebased(h.now), future: h.future.map(rebased), saved: e.saved, touched: null };
    }
  }
}

/** How many things are not as the file has them: layers that differ, come, go or stand elsewhere, and the map's own facts. */
export function changesOf({ now, saved }: DraftHistory): number {
  const { layers, view: _, ...head } = now;
  const { layers: before, view: __, ...savedHead } = saved;
  const own = Object.keys(head).filter((k) => !sameJson(head[k as keyof typeof head], savedHead[k as keyof typeof savedHead])).length;
  const known = new Map(before.map((l) => [l.id, l]));
  const edited = layers.filter((l) => !known.has(l.id) || !sameJson(known.get(l.id), l)).length;
  const gone = before.filter((l) => !layers.some((o) => o.id === l.id)).length;
  const kept = layers.filter((l) => known.has(l.id)).map((l) => l.id);
  const order = before.filter((l) => kept.includes(l.id)).map((l) => l.id);
  return own + edited + gone + (sameJson(kept, order) ? 0 : 1);
}
