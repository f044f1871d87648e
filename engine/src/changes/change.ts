/** A change on disk as data: planned, shown, journaled, carried out, verified, undoable. Paths are real and absolute. */

/** New content for a file. `before` is what it was planned from; null: nothing may stand there. */
export interface PlannedWrite {
  readonly kind: 'write';
  readonly path: string;
  readonly before: Uint8Array | null;
  readonly after: Uint8Array;
}

/** Something staged beside its target (a file or a whole folder) takes its place by rename. Nothing may stand there. */
export interface PlannedInstall {
  readonly kind: 'install';
  readonly path: string;
}

/** Something goes into the trash by rename. `hash`: it must still be that file; null: whatever it is (a folder). */
export interface PlannedTrash {
  readonly kind: 'trash';
  readonly path: string;
  readonly hash: string | null;
}

export type PlannedStep = PlannedWrite | PlannedInstall | PlannedTrash;

export interface PlannedChange {
  /** Verb and object, for the journal: `Mend 4 layers in 2 maps`. */
  readonly title: string;
  readonly kind: 'mend' | 'paths' | 'remember' | 'save' | 'pack' | 'receive' | 'undo' | 'new';
  /** What is locked while it runs: the project's root, or the folder that is written to. */
  readonly root: string;
  readonly who: string;
  readonly steps: readonly PlannedStep[];
  /** For `undo`: the change that is taken back. */
  readonly undoes?: string;
}

export type ChangeState = 'preparing' | 'applying' | 'done' | 'undone' | 'taken-back' | 'failed';

export interface StepRecord {
  readonly n: number;
  readonly kind: PlannedStep['kind'];
  readonly path: string;
  /** Staged content beside the target; for trash, where it goes. */
  readonly temp: string;
  readonly beforeHash: string | null;
  readonly afterHash: string | null;
  readonly before: Uint8Array | null;
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
  readonly steps: readonly StepRecord[];
}

/** A process, so that it can be told whether it still lives. */
export interface Owner {
  readonly pid: number;
  readonly startTime: string;
  readonly bootId: string;
  readonly program: string;
}
