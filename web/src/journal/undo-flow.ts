import { enqueueSnackbar } from 'notistack';
import type { UndoneView, UndoPreview } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { sentenceOf } from '../parts/states.js';
import { undoSentence } from './undo-sentence.js';

/** How long what was done stays on the page, with its undo. */
export const SHOWN_MS = 12_000;

/** An undo that waits for a person to say yes. */
export interface AskedUndo {
  readonly id: string;
  readonly preview: UndoPreview;
  /** What came of it; null: it was left. */
  readonly onEnd: (undone: UndoneView | null) => void;
}

let asked: AskedUndo | null = null;
const listeners = new Set<() => void>();

/** The undo that is asked about now, for whoever shows it. */
export const askedUndo = {
  get: (): AskedUndo | null => asked,
  subscribe: (listener: () => void): (() => void) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
};

function ask(next: AskedUndo | null): void {
  asked = next;
  for (const listener of listeners) listener();
}

/** It puts back just what the change did, and takes nothing from anybody. */
const isPlain = ({ along, kept, lost }: UndoPreview): boolean => along.length === 0 && kept.length === 0 && (lost ?? []).length === 0;

/**
 * Takes a change back and says what came of it. Where that would touch more than the change itself did, leave something, or set
 * layers adrift, it is shown first and asked about; `always`: in any case. Gives whether anything was undone.
 */
export async function undoAndTell(id: string, always = false): Promise<boolean> {
  try {
    const preview = await api.previewUndo(id);
    const undone =
      always || !isPlain(preview)
        ? await new Promise<UndoneView | null>((onEnd) => ask({ id, preview, onEnd })).finally(() => ask(null))
        : await api.undo(id, { along: false, shown: preview.digest });
    if (undone) enqueueSnackbar(undoSentence(undone), undone.kept.length > 0 ? { variant: 'warning', autoHideDuration: SHOWN_MS } : {});
    return undone !== null && undone.change !== null;
  } catch (error) {
    enqueueSnackbar(sentenceOf(error), { variant: 'error' });
    return false;
  }
}
