import type { ChangeRecord, ChangeState, Owner, StepRecord } from './change.js';

/**
 * Where changes are written down. What a method wrote is on the disk, and has been read back by another connection, when it
 * returns; where it throws, nothing of it is kept, and the next call finds a journal that can be written again.
 */
export interface Journal {
  /** Writes the change in state `preparing`, and takes the locks of its roots in the same transaction. Throws `locked`. */
  begin(change: ChangeRecord, otherRoots?: readonly string[]): Promise<void>;
  /** Sets the state; `done`, `undone`, `taken-back` and `failed` give the lock back. */
  setState(id: string, state: ChangeState, note?: string): Promise<void>;
  /** Writes down why a change waits. */
  setNote(id: string, note: string): Promise<void>;
  /** Writes down what is known of a step once it is staged. */
  setHashes(id: string, step: number, hashes: Partial<Pick<StepRecord, 'beforeHash' | 'afterHash'>>): Promise<void>;
  /** Makes an unfinished change another process's, if it still is the one's that it was; false where someone else was first. */
  claim(id: string, from: Owner, to: Owner): Promise<boolean>;
  get(id: string): Promise<ChangeRecord | null>;
  /** Changes that are neither done nor given up. */
  unfinished(): Promise<ChangeRecord[]>;
  /** Newest first, without the bytes of the steps. */
  list(options: { root?: string; limit: number }): Promise<ChangeRecord[]>;
  beat(id: string): Promise<void>;
}

export const describeOwner = (owner: Owner): string => `${owner.program} (process ${owner.pid})`;
