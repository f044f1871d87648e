import type { DraftConflict } from '@rootmap/core';
import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useReducer, useState, type RefObject } from 'react';
import type { EditorView, MapDocView, MapDraft } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { useLatest } from '../../parts/use-latest.js';
import { editorId } from './map-doc-query.js';
import { changesOf, openDraft, stepDraft } from './draft-history.js';
import { useFileChanges } from './use-file-changes.js';
import { keys } from '../../api/queries.js';

/** How long after an edit it is kept at the latest, and how often an open map is told of. */
const KEEP_AFTER_MS = 1500;
const BEAT_MS = 5000;

/** What this page kept before it was loaded again; what another one kept is only offered. */
const ownDraft = ({ kept, base }: MapDocView): MapDraft | null => (kept?.isOwn && kept.base === base ? kept.draft : null);

interface Live {
  readonly history: ReturnType<typeof openDraft>;
  readonly base: string;
  readonly changes: number;
}
interface Keeping {
  readonly key: string;
  readonly path: string;
  readonly editor: string;
  readonly base: string;
  /** The draft: a little after it changes, it is kept. */
  readonly now: MapDraft;
  readonly onOthers: (others: readonly EditorView[]) => void;
  /** When it was kept last; null: it could not be. */
  readonly onKept: (ms: number | null) => void;
}

/** Keeps the draft on the server, soon after each edit, and tells from time to time that the map is open here. */
function useKeeping(live: RefObject<Live>, { key, path, editor, base, now, onOthers, onKept }: Keeping): void {
  const client = useQueryClient();
  const keep = useCallback(async (): Promise<void> => {
    const { history, base: from, changes } = live.current;
    try {
      const kept = await api.keepDraft(key, { path, editor, base: from, draft: changes > 0 ? history.now : null });
      onOthers(kept.others);
      if (changes > 0) onKept(Date.now());
      if (kept.base !== null && kept.base !== from) await client.invalidateQueries({ queryKey: keys.of(key, 'map-doc', path) });
    } catch {
      onKept(null); // the header says that nothing is kept; the next beat tries again
    }
  }, [live, key, path, editor, client, onOthers, onKept]);
  useEffect(() => {
    const soon = setTimeout(() => void keep(), KEEP_AFTER_MS);
    return () => clearTimeout(soon);
  }, [now, base, keep]);
  useEffect(() => {
    const beat = setInterval(() => void keep(), BEAT_MS);
    return () => clearInterval(beat);
  }, [keep]);
}

/** The browser asks before a page with unsaved work is closed. */
function useLeaveWarning(live: RefObject<Live>): void {
  useEffect(() => {
    const leave = (e: BeforeUnloadEvent): void => {
      if (live.current.changes > 0) e.preventDefault();
    };
    window.addEventListener('beforeunload', leave);
    return () => window.removeEventListener('beforeunload', leave);
  }, [live]);
}

/** The draft of a map with its steps, kept on the server while it is edited. */
export function useMapEditor(key: string, path: string, doc: MapDocView) {
  const client = useQueryClient();
  const [history, send] = useReducer(stepDraft, doc, (d) => openDraft(d.draft, ownDraft(d) ?? d.draft));
  /** The file that the draft was made from. */
  const [base, setBase] = useState(doc.base);
  /** What was changed here and in the file, each in another way: a person says which holds. */
  const [conflicts, setConflicts] = useState<readonly DraftConflict[]>([]);
  /** Somebody else's changes were taken into the draft. */
  const [isMerged, setMerged] = useState(false);
  const [restored, setRestored] = useState(ownDraft(doc) ? null : doc.kept);
  const [keptMs, setKeptMs] = useState<number | null>(null);
  const [isSaving, setSaving] = useState(false);
  const editor = editorId();
  const changes = changesOf(history);
  const live = useLatest<Live>({ history, base, changes });

  const others = useFileChanges({ doc, base, isSaving, history, send, setBase, setConflicts, setMerged });

  useKeeping(live, { key, path, editor, base, now: history.now, onOthers: others.set, onKept: setKeptMs });
  useLeaveWarning(live);

  const edit = useCallback((draft: MapDraft, what: string | null = null) => send({ type: 'edit', draft, what }), []);
  return {
    draft: history.now,
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
    changes,
    others: others.now,
    base,
    editor,
    conflicts,
    isMerged,
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
    /** What was changed in both is as the file has it where it is among these, else as it is here. */
    settle: (taken: ReadonlySet<string>) => {
      send({ type: 'merge', saved: doc.draft, taken });
      setBase(doc.base);
      setConflicts([]);
    },
    /** Looks whether the file is another one now. */
    look: () => void client.invalidateQueries({ queryKey: keys.of(key, 'map-doc', path) }),
    onMergeSeen: () => setMerged(false),
    /** Back to what the file has. */
    drop: () => {
      send({ type: 'open', saved: doc.draft, now: doc.draft });
      setBase(doc.base);
      setConflicts([]);
      void api.dropDraft(key, path, editor);
    },
    saved: (draft: MapDraft, hash: string) => {
      send({ type: 'saved', draft });
      setBase(hash);
    },
  };
}
export type MapEditor = ReturnType<typeof useMapEditor>;
