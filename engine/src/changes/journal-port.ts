import type { ChangeRecord, ChangeState, Owner, StepRecord } from './change.js';

/** What a list is cut down to: changes in a root or below it, of a kind, with a text in the title or in the path of a file. */
export interface JournalFilter {
  readonly root?: string | undefined;
  readonly kind?: string | undefined;
  readonly text?: string | undefined;
  readonly limit: number;
}

/**
 * Where changes are written down. What a method wrote is on the disk, and has been read back by another connection, when it
 * returns; where it throws, nothing of it is kept, and the next call finds a journal that can be written again.
 */
export interface Journal {
  /** Writes the change in state `preparing`, and takes the locks of its roots in the same transaction. Throws `locked`. */
  begin(change: ChangeRecord, otherRoots?: readonly string[]): Promise<void>;
  /** Sets the state; `done`, `taken-back` and `failed` give the lock back. What a change undoes is undone, or done again, when it is done. */
  setState(id: string, state: ChangeState, note?: string): Promise<void>;
  /** Writes down why a change waits. */
  setNote(id: string, note: string): Promise<void>;
  /** Writes a step down anew with what is known of it once it is staged. */
  keepStep(id: string, step: StepRecord): Promise<void>;
  /** Makes an unfinished change another process's, if it still is the one's that it was; false where someone else was first. */
  claim(id: string, from: Owner, to: Owner): Promise<boolean>;
  get(id: string): Promise<ChangeRecord | null>;
  /** Changes that began after another one, in their order, without the bytes of their steps. */
  since(change: ChangeRecord): Promise<ChangeRecord[]>;
  /** Changes that are neither done nor given up. */
  unfinished(): Promise<ChangeRecord[]>;
  /** Newest first, without the bytes of the steps. */
  list(filter: JournalFilter): Promise<ChangeRecord[]>;
  beat(id: string): Promise<void>;
}

export const describeOwner = (owner: Owner): string => `${owner.program} (process ${owner.pid})`;
