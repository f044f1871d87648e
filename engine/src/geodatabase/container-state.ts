import { statSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import { BESIDE } from './holders.js';

/** Size and time of a geodatabase and of what stands beside it. */
export interface ContainerState {
  readonly path: string;
  readonly state: string;
}

export function stateOf(path: string): ContainerState {
  const one = (file: string): string => {
    const stat = statSync(file, { throwIfNoEntry: false, bigint: true });
    return stat ? `${stat.ino} ${stat.size} ${stat.mtimeNs}` : '';
  };
  return { path, state: ['', ...BESIDE].map((b) => one(path + b)).join('\n') };
}

/** Throws where one of them is no longer as it was: what is staged was made from something else, and nothing may be replaced by it. */
export function mustBeAsBefore(states: readonly ContainerState[]): void {
  for (const before of states)
    if (stateOf(before.path).state !== before.state) throw new ProblemError({ code: 'changed-meanwhile', path: before.path });
}
