import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useReducer, useRef, useState } from 'react';
import type { EditorView, MapDocView, MapDraft } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { editorId } from './map-doc-query.js';
import { changesOf, openDraft, stepDraft } from './draft-history.js';

/** How long after an edit it is kept at the latest, and how often an open map is told of. */
const KEEP_AFTER_MS = 1500;
const BEAT_MS = 5000;

/** What this page kept before it was loaded again; what another one kept is only offered. */
const ownDraft = ({ kept, base }: MapDocView): MapDraft | null => (kept?.isOwn && kept.base === base ? kept.draft : null);

/** The draft of a map with its steps, kept on the server while it is edited. */
export function useMapEditor(key: string, path: string, doc: MapDocView) {
  const client = useQueryClient();
  const [history, send] = useReducer(stepDraft, doc, (d) => openDraft(d.draft, ownDraft(d) ?? d.draft));
  const [others, setOthers] = useState<readonly EditorView[]>(doc.others);
  /** The file that the draft was made from. */
  const [base, setBase] = useState(doc.base);
  const [isOverwritten, setOverwritten] = useState(false);
  const [restored, setRestored] = useState(ownDraft(doc) ? null : doc.kept);
  const [keptMs, setKeptMs] = useState<number | null>(null);
  const [isSaving, setSaving] = useState(false);
  const editor = editorId();
  const changes = changesOf(history);
  const live = useRef({ history, base, changes });
  live.current = { history, base, changes };

  // The file is as it was read first, or somebody saved it: then it is taken over where nothing is unsaved here.
  useEffect(() => {
    setOthers(doc.others);
    if (doc.base !== base && !isSaving) {
      if (live.current.changes === 0) {
        send({ type: 'open', saved: doc.draft, now: doc.draft });
        setBase(doc.base);
        setOverwritten(false);
      } else setOverwritten(true);
    }
  }, [doc, base, isSaving]);

  const keep = useCallback(async (): Promise<void> => {
    const { history: h, base: from, changes: n } = live.current;
    try {
      const kept = await api.keepDraft(key, { path, editor, base: from, draft: n > 0 ? h.now : null });
      setOthers(kept.others);
      if (n > 0) setKeptMs(Date.now());
      if (kept.base !== null && kept.base !== from) await client.invalidateQueries({ queryKey: ['project', key, 'map-doc', path] });
    } catch {
      setKeptMs(null); // the header says that nothing is kept; the next beat tries again
    }
  }, [key, path, editor, client]);

  useEffect(() => {
    const soon = setTimeout(() => void keep(), KEEP_AFTER_MS);
    return () => clearTimeout(soon);
  }, [history.now, base, keep]);
  useEffect(() => {
    const beat = setInterval(() => void keep(), BEAT_MS);
    return () => clearInterval(beat);
  }, [keep]);

  useEffect(() => {
    const leave = (e: BeforeUnloadEvent): void => {
      if (live.current.changes > 0) e.preventDefault();
    };
    window.addEventListener('beforeunload', leave);
    return () => window.removeEventListener('beforeunload', leave);
  }, []);

  const edit = useCallback((draft: MapDraft, what: string | null = null) => send({ type: 'edit', draft, what }), []);
  return {
    draft: history.now,
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
    changes,
    others,
    base,
    editor,
    isOverwritten,
    restored,
    keptMs,
    setSaving,
    edit,
    undo: () => send({ type: 'undo' }),
    redo: () => send({ type: 'redo' }),
    /** What was kept by an editor that is gone is taken up, or given up. */
    restore: () => {
      if (restored) edit(restored.draft);
      setRestored(null);
    },
    forget: () => {
      setRestored(null);
      void api.dropDraft(key, path, editor);
    },
    /** Back to what the file has. */
    drop: () => {
      send({ type: 'open', saved: doc.draft, now: doc.draft });
      setBase(doc.base);
      setOverwritten(false);
      void api.dropDraft(key, path, editor);
    },
    saved: (draft: MapDraft, hash: string) => {
      send({ type: 'saved', draft });
      setBase(hash);
    },
  };
}
export type MapEditor = ReturnType<typeof useMapEditor>;
