import Joi from 'joi';
import { objectOf, text } from './shapes.js';

export interface ChangeView {
  readonly id: string;
  readonly title: string;
  readonly kind: string;
  readonly who: string;
  readonly createdMs: number;
  readonly state: 'preparing' | 'applying' | 'taking-back' | 'done' | 'undone' | 'taken-back' | 'failed';
  /** It was left midway, and waits for its folder or its disk. */
  readonly isWaiting: boolean;
  readonly note: string | null;
  /** The first of them, real paths; in a list of changes only a few, as people know them. */
  readonly files: readonly string[];
  readonly fileCount: number;
  readonly canUndo: boolean;
  /** The change whose undoing does this one again; null: there is nothing to do again. */
  readonly redo: string | null;
}

export interface AppliedView {
  readonly change: ChangeView | null;
  readonly applied: number;
  /** Layers that are still not sound, from disk. */
  readonly left: number;
}

/** What a list of changes is cut down to; all that is left out is not asked for. */
export interface JournalQuery {
  /** Key of a project. */
  readonly project: string | null;
  readonly kind: string | null;
  /** In the title, or in the path of a file. */
  readonly text: string;
}

export const journalQuery = objectOf<JournalQuery>({
  project: Joi.string().max(80).allow(null).default(null),
  kind: Joi.string().max(40).allow(null).default(null),
  text: text(300).default(''),
});

/** What a change did to a file or a folder. */
export interface ChangedFileView {
  readonly path: string;
  readonly did: 'written' | 'made' | 'copied' | 'moved' | 'trashed' | 'folder made' | 'folder removed' | 'bits set';
  /** Where it was moved or copied from. */
  readonly from: string | null;
}

export interface ChangedFilesView {
  /** The first of them. */
  readonly files: readonly ChangedFileView[];
  readonly count: number;
}

/** What happens to a file or a folder. `restored`: it gets its old bytes. `removed`: into the trash. `returned`: out of it. */
type UndoneWhat = 'restored' | 'removed' | 'returned' | 'moved' | 'bits' | 'folder' | 'folder-removed';

export interface StaysView {
  readonly path: string;
  /** In a few words. */
  readonly why: string;
}

/** What one change put into the trash of a project. */
export interface TrashedView {
  /** The change; its title and time are null where the journal does not know it. */
  readonly id: string;
  readonly title: string | null;
  readonly createdMs: number | null;
  /** Where the first of it stood, and how many files and folders it is. */
  readonly paths: readonly string[];
  readonly count: number;
  readonly bytes: number;
  /** The change that is undone to bring it back; null: none does. */
  readonly restore: string | null;
}

/** What an undo would do now. Nothing of it is done. */
export interface UndoPreview {
  readonly title: string;
  readonly isRedo: boolean;
  /** Given back, so that nothing else is done than was shown. */
  readonly digest: string;
  /** The first of what comes back, and how many that is. */
  readonly back: readonly { readonly path: string; readonly what: UndoneWhat }[];
  readonly backCount: number;
  /** What stays as it is, and how many. */
  readonly kept: readonly StaysView[];
  readonly keptCount: number;
  /** Later changes that stand on it and are undone along with it, the latest first. */
  readonly along: readonly { readonly id: string; readonly title: string; readonly createdMs: number }[];
  /** Layers that are sound now and would not be then; null: they were not looked at, since no project is there. */
  readonly lost: readonly LostLayerView[] | null;
}

export interface LostLayerView {
  readonly map: string;
  readonly layer: string;
  /** Title of another project that the map is in; null: it is that of the change. */
  readonly project: string | null;
}

export interface UndoRequest {
  /** Later changes that stand on it are undone, too. */
  readonly along: boolean;
  /** Digest of the preview that was shown; null: none was, and it is done only where all of it comes back. */
  readonly shown: string | null;
}

export const undoRequest = objectOf<UndoRequest>({
  along: Joi.boolean().default(false),
  shown: Joi.string().hex().length(64).allow(null).default(null),
});

export interface UndoneView {
  /** The last of the changes that it made; null: nothing was undone. */
  readonly change: ChangeView | null;
  readonly isRedo: boolean;
  /** How many changes were undone. */
  readonly changes: number;
  /** Files and folders that came back. */
  readonly back: number;
  readonly kept: readonly StaysView[];
}
