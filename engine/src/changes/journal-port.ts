import type { ChangeRecord, ChangeState, Owner, StepRecord } from './change.js';

/** Where changes are written down. Every method is on the disk when it returns. */
export interface Journal {
  /** Writes the change in state `preparing`, and takes the locks of its roots in the same transaction. Throws `locked`. */
  begin(change: ChangeRecord, otherRoots?: readonly string[]): Promise<void>;
  /** Sets the state; `done`, `undone`, `taken-back` and `failed` give the lock back. */
  setState(id: string, state: ChangeState, note?: string): Promise<void>;
  /** Writes down what is known of a step once it is staged. */
  setHashes(id: string, step: number, hashes: Partial<Pick<StepRecord, 'beforeHash' | 'afterHash'>>): Promise<void>;
  get(id: string): Promise<ChangeRecord | null>;
  /** Changes that are neither done nor given up. */
  unfinished(): Promise<ChangeRecord[]>;
  /** Newest first, without the bytes of the steps. */
  list(options: { root?: string; limit: number }): Promise<ChangeRecord[]>;
  beat(id: string): Promise<void>;
}

export const describeOwner = (owner: Owner): string => `${owner.program} (process ${owner.pid})`;
