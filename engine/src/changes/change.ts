/** A change on disk as data: planned, shown, journaled, carried out, verified, undoable. Paths are real and absolute. */

/** New content for a file. `before` is what it was planned from; null: nothing may stand there. */
export interface PlannedWrite {
  readonly kind: 'write';
  readonly path: string;
  readonly before: Uint8Array | null;
  readonly after: Uint8Array;
}

/** Something staged beside its target (a file or a whole folder) takes its place by rename. Nothing may stand there. */
interface PlannedInstall {
  readonly kind: 'install';
  readonly path: string;
}

/**
 * Something goes into the trash by rename. `hash`: it must still be that file; null: whatever it is (a folder).
 * `trashOf`: the root whose trash takes it, where that is not the change's own root.
 */
export interface PlannedTrash {
  readonly kind: 'trash';
  readonly path: string;
  readonly hash: string | null;
  readonly trashOf?: string;
}

/** One folder is made; those above it have steps of their own. */
interface PlannedFolder {
  readonly kind: 'folder';
  readonly path: string;
}

/** One folder is taken away if nothing is in it, and stays where something is. */
interface PlannedDropFolder {
  readonly kind: 'drop-folder';
  readonly path: string;
}

/** A file or a folder with all that is in it goes from `from` to `path` by rename, on one file system. Nothing may stand there. */
export interface PlannedMove {
  readonly kind: 'move';
  readonly from: string;
  readonly path: string;
}

/** A file or a folder is copied beside its target, read back and compared, and takes its place by rename. */
export interface PlannedCopy {
  readonly kind: 'copy';
  readonly from: string;
  readonly path: string;
}

/** Permission bits are set, for files that are to be protected. */
export interface PlannedMode {
  readonly kind: 'mode';
  readonly path: string;
  readonly mode: number;
}

/**
 * Steps are carried out in their order. Writes come before moves and name files as they are before those, so that a change
 * that was interrupted can be told how far it got by its last move that is done.
 */
export type PlannedStep =
  PlannedWrite | PlannedInstall | PlannedTrash | PlannedFolder | PlannedDropFolder | PlannedMove | PlannedCopy | PlannedMode;

export interface PlannedChange {
  /** Verb and object, for the journal: `Mend 4 layers in 2 maps`. */
  readonly title: string;
  readonly kind:
    | 'mend'
    | 'paths'
    | 'remember'
    | 'save'
    | 'pack'
    | 'receive'
    | 'undo'
    | 'new'
    | 'move'
    | 'names'
    | 'copy'
    | 'folders'
    | 'delete'
    | 'protect'
    | 'project'
    | 'intake'
    | 'geodatabase'
    | 'origin'
    | 'quality';
  /** What is locked while it runs: the project's root, or the folder that is written to. */
  readonly root: string;
  /** Other roots that it writes in: locked, too. */
  readonly otherRoots?: readonly string[];
  readonly who: string;
  readonly steps: readonly PlannedStep[];
  /** For `undo`: the change that is taken back. */
  readonly undoes?: string;
}

export type ChangeState = 'preparing' | 'applying' | 'taking-back' | 'done' | 'undone' | 'taken-back' | 'failed';

/** A step as the journal keeps it: all that is needed to carry it out, to finish it after a stop, and to take it back. */
export type StepRecord = WriteStep | InstallStep | TrashStep | FolderStep | MoveStep | CopyStep | ModeStep;

interface Numbered {
  readonly n: number;
  readonly path: string;
}

export interface WriteStep extends Numbered {
  readonly kind: 'write';
  /** The new content, staged beside the target. */
  readonly temp: string;
  /** What stood there; null: nothing, or a list of changes, which leaves it out. */
  readonly before: Uint8Array | null;
  /** Null: nothing stood there. */
  readonly beforeHash: string | null;
  /** Which file stood there (`ChangeDisk.stamp`); null: none, or a change of an earlier version. */
  readonly beforeStamp: string | null;
  readonly afterHash: string;
}

/** By the path in the folder; that of a folder in it ends in a slash. */
export type TreeStamps = Readonly<Record<string, string>>;

export interface InstallStep extends Numbered {
  readonly kind: 'install';
  readonly temp: string;
  /** Which file was staged; null until it is. */
  readonly stamp: string | null;
  /** Of a folder: the stamps of what is in it (`ChangeDisk.treeStamps`). Null: a file, not staged yet, a list of changes, an earlier version. */
  readonly tree: TreeStamps | null;
}

export interface TrashStep extends Numbered {
  readonly kind: 'trash';
  /** Where in the trash it goes. */
  readonly temp: string;
  /** Null: whatever stands there. */
  readonly hash: string | null;
}

interface FolderStep extends Numbered {
  readonly kind: 'folder' | 'drop-folder';
}

export interface MoveStep extends Numbered {
  readonly kind: 'move';
  readonly source: string;
  /** Which file it is (device and inode); a rename keeps that. */
  readonly identity: string;
  /** Of a folder that comes out of the trash: what was in it. Null: something else, a list of changes, an earlier version. */
  readonly tree: TreeStamps | null;
}

export interface CopyStep extends Numbered {
  readonly kind: 'copy';
  readonly source: string;
  readonly temp: string;
  /** Of the whole tree; null until it is staged. */
  readonly treeHash: string | null;
}

export interface ModeStep extends Numbered {
  readonly kind: 'mode';
  /** Permission bits; null: nothing stood there. */
  readonly before: number | null;
  readonly after: number;
}

export interface ChangeRecord {
  readonly id: string;
  readonly title: string;
  readonly kind: PlannedChange['kind'];
  readonly root: string;
  readonly who: string;
  readonly createdMs: number;
  readonly state: ChangeState;
  readonly owner: Owner;
  readonly note: string | null;
  readonly undoes: string | null;
  /** The folders that it changes, as they were at its beginning; none in changes of earlier versions. */
  readonly roots: readonly SeenRoot[];
  readonly steps: readonly StepRecord[];
}

/** A folder that is there, and which one it is (device and inode), so that an empty mount point is told from it. */
export interface SeenRoot {
  readonly path: string;
  readonly identity: string | null;
}

/** A process, so that it can be told whether it still lives. */
export interface Owner {
  readonly pid: number;
  readonly startTime: string;
  readonly bootId: string;
  readonly program: string;
}

/** What stood at one real path stood at the other afterwards. */
export interface JournalMove {
  readonly from: string;
  readonly to: string;
  readonly ms: number;
  /** Of the change. */
  readonly title: string;
}
