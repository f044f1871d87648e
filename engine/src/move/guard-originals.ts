import { lstatSync } from 'node:fs';
import { roleOf } from '@rootmap/core';
import { below } from '../disk/native-path.js';
import type { PlannedMode } from '../changes/change.js';
import { ownerOf } from './relocate-project.js';

/** A root, and the roles of its folders. */
export interface GuardedRoot {
  readonly root: string;
  readonly folders: Readonly<Record<string, string>>;
}

const WRITABLE_BY_ANYONE = 0o222;
const WRITABLE_BY_OWNER = 0o200;

/** Bits of a file as its role asks: originals are read-only. Null: they are so already. */
export function guardedMode(mode: number, isOriginal: boolean): number | null {
  const bits = mode & 0o7777;
  const wanted = isOriginal ? bits & ~WRITABLE_BY_ANYONE : bits & WRITABLE_BY_OWNER ? bits : bits | WRITABLE_BY_OWNER;
  return wanted === bits ? null : wanted;
}

/** Files that come among the originals are set read-only; what leaves them can be written again. */
export function guardSteps(
  files: readonly { readonly from: string; readonly to: string }[],
  before: readonly GuardedRoot[],
  after: readonly GuardedRoot[],
): PlannedMode[] {
  return files.flatMap(({ from, to }): PlannedMode[] => {
    const wasOriginal = isOriginal(from, before);
    const willBe = isOriginal(to, after);
    if (!wasOriginal && !willBe) return [];
    const stat = lstatSync(from);
    if (!stat.isFile()) return [];
    const mode = guardedMode(stat.mode, willBe);
    return mode === null ? [] : [{ kind: 'mode', path: to, mode }];
  });
}

function isOriginal(path: string, roots: readonly GuardedRoot[]): boolean {
  const owner = ownerOf(path, roots);
  const inside = owner && below(owner.root, path);
  return inside !== null && roleOf(inside, owner!.folders) === 'originals';
}
