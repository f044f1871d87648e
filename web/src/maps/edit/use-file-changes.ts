import { mergeDrafts, sameJson, type DraftConflict } from '@rootmap/core';
import { useCallback, useState } from 'react';
import type { EditorView, MapDocView } from '@rootmap/core/contract';
import { changesOf, type DraftEvent, type DraftHistory } from './draft-history.js';

interface Under {
  readonly doc: MapDocView;
  /** The file that the draft was made from. */
  readonly base: string;
  readonly isSaving: boolean;
  readonly history: DraftHistory;
  readonly send: (event: DraftEvent) => void;
  readonly setBase: (base: string) => void;
  readonly setConflicts: (conflicts: readonly DraftConflict[]) => void;
  readonly setMerged: (isMerged: boolean) => void;
}

/**
 * What becomes of a draft when somebody else saves its file: it is taken over where nothing is unsaved here, put together with
 * what is where both touch nothing alike, and else asked about. Gives who else has the map open.
 */
export function useFileChanges({ doc, base, isSaving, history, send, setBase, setConflicts, setMerged }: Under) {
  const [others, setOthers] = useState<readonly EditorView[]>(doc.others);
  const [seen, setSeen] = useState({ doc, isSaving });
  if (seen.doc !== doc || seen.isSaving !== isSaving) {
    setSeen({ doc, isSaving });
    if (seen.doc !== doc) setOthers(doc.others);
    if (doc.base !== base && !isSaving) {
      const merged = mergeDrafts(history.saved, history.now, doc.draft);
      setConflicts(merged.conflicts);
      if (merged.conflicts.length === 0) {
        if (changesOf(history) === 0) send({ type: 'open', saved: doc.draft, now: doc.draft });
        else if (!sameJson(history.saved, doc.draft)) {
          send({ type: 'merge', saved: doc.draft, taken: new Set() });
          setMerged(true);
        }
        setBase(doc.base);
      }
    }
  }
  // Told every few seconds, and mostly the same: the whole editor would be drawn anew.
  const set = useCallback((now: readonly EditorView[]) => setOthers((before) => (sameJson(before, now) ? before : now)), []);
  return { now: others, set };
}
