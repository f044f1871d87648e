import { isProjectFile } from '@rootmap/core';
import { basename, dirname, isBelow, isInside, rebase } from '../disk/native-path.js';
import type { ChangeRecord, StepRecord } from './change.js';
import { isInTrash, selfAndAbove } from './path-steps.js';
import { Tracks } from './tracks.js';

/**
 * What a change left behind, for whoever asks which later change stands on it.
 * `content`, `bits`: of something that was there before. `made`: something new; a later change of it, or below it, stands on it.
 * `moved`: it came there by a move, and goes back with whatever is in it by then; or a folder that is there for what is in it.
 * `free`: nothing is there any more, and an undo needs the room; `room`: the same for a folder, which may be there again.
 * `project`: the file that makes a folder a project, on which all that is done in the project stands.
 */
type Left = 'content' | 'bits' | 'made' | 'moved' | 'free' | 'room' | 'project';

/** Names that go with their folders, not with what has them. */
const IS_PLACE: ReadonlySet<Left> = new Set(['free', 'room']);

function leftBy(change: ChangeRecord): (readonly [string, Left])[] {
  const moves = Tracks.of(change.steps);
  return change.steps.flatMap((step, i): (readonly [string, Left])[] => {
    const now = moves.after(step.path, i + 1);
    switch (step.kind) {
      case 'write':
        if (step.beforeHash !== null) return [[now, 'content']];
        return isProjectFile(basename(now))
          ? [
              [now, 'made'],
              [now, 'project'],
            ]
          : [[now, 'made']];
      case 'mode':
        return [[now, 'bits']];
      case 'install':
      case 'copy':
        return [[now, 'made']];
      case 'move':
        return [
          [now, isInTrash(step.source) ? 'made' : 'moved'],
          [step.source, 'free'],
        ];
      case 'trash':
        return [[step.path, 'free']];
      case 'folder': // stays where something is in it
        return [[now, 'moved']];
      case 'drop-folder':
        return [[step.path, 'room']];
    }
  });
}

const above = (path: string): string[] => [...selfAndAbove(path)].slice(1);

/** What some changes left, where it is at a moment; later changes are held against it one by one, in their order. */
class Ground {
  private left: (readonly [string, Left])[] = [];
  private byPath = new Map<string, Set<Left>>();
  /** Folders that are not there now, in which something was left free: what else comes to their places is not them. */
  private gone = new Set<string>();
  /** All that something left stands in. */
  private folders = new Set<string>();

  add(change: ChangeRecord): void {
    for (const one of leftBy(change)) this.note(one);
  }

  private note(one: readonly [string, Left]): void {
    const [path, kind] = one;
    this.left.push(one);
    this.byPath.set(path, (this.byPath.get(path) ?? new Set()).add(kind));
    for (const folder of above(path)) {
      if (this.folders.has(folder)) break;
      this.folders.add(folder);
    }
  }

  /** Whether the change needs what is here, or changes it; not where that is not asked. What it moves is followed. */
  isUnder(change: ChangeRecord, isAsked: boolean): boolean {
    let isUnder = isAsked && this.left.some(([path, kind]) => kind === 'project' && isInside(dirname(path), change.root));
    for (const step of change.steps) {
      if (isAsked) isUnder ||= this.isTouched(step);
      if (step.kind === 'move') this.follow(step.source, step.path);
      if (step.kind === 'trash') this.follow(step.path, step.temp);
      if (step.kind === 'drop-folder' && this.folders.has(step.path)) this.gone.add(step.path);
      if (step.kind === 'folder') this.gone.delete(step.path);
    }
    return isUnder;
  }

  private has(path: string, ...kinds: readonly Left[]): boolean {
    const there = this.byPath.get(path);
    return there !== undefined && kinds.some((k) => there.has(k));
  }

  private isInMade(path: string): boolean {
    return above(path).some((folder) => this.has(folder, 'made'));
  }

  /** A folder that goes into what was moved out of it: that could not go back. */
  private isCircle(from: string, to: string): boolean {
    if (!this.folders.has(from) || !above(to).some((folder) => this.has(folder, 'moved'))) return false;
    return this.left.some(([path, kind]) => kind === 'free' && isBelow(from, path));
  }

  /** With what is in it. */
  private isTrashed(path: string): boolean {
    return this.has(path, 'made', 'moved', 'content', 'bits') || this.isInMade(path) || this.folders.has(path);
  }

  private isTouched(step: StepRecord): boolean {
    const { path } = step;
    /** Something comes where an undo needs the room, or into what was made. */
    const isPut = (at: string): boolean => this.has(at, 'free') || above(at).some((folder) => this.has(folder, 'made', 'free'));
    const isTaken = (at: string): boolean => this.has(at, 'made', 'moved') || this.isInMade(at);
    switch (step.kind) {
      case 'mode':
        return this.has(path, 'bits', 'made') || this.isInMade(path);
      case 'write':
      case 'install':
      case 'copy':
        return this.has(path, 'content', 'made', 'room') || isPut(path) || this.folders.has(path);
      case 'move':
        if (isInTrash(path)) return this.isTrashed(step.source);
        return isTaken(step.source) || this.isCircle(step.source, path) || this.has(path, 'room') || isPut(path) || this.folders.has(path);
      case 'trash':
        return this.isTrashed(path);
      case 'folder':
        return isPut(path);
      case 'drop-folder': // an undo needs it for what was in it
        return this.has(path, 'made', 'moved') || this.folders.has(path);
    }
  }

  private follow(from: string, to: string): void {
    const isPart = this.isInMade(from); // of something that was made, and goes with it
    if (!isPart && !this.byPath.has(from) && !this.folders.has(from)) return;
    const before = this.left;
    this.left = [];
    this.byPath = new Map();
    this.folders = new Set();
    const stay = [...this.gone].filter((folder) => isInside(folder, from));
    this.gone = new Set(
      [...this.gone].map((folder) => (!stay.includes(folder) && isInside(from, folder) ? rebase(folder, from, to) : folder)),
    );
    for (const [path, kind] of before) {
      const isThere = !stay.some((folder) => isInside(folder, path));
      const isTaken = isThere && (IS_PLACE.has(kind) ? isBelow(from, path) : isInside(from, path));
      this.note([isTaken ? rebase(path, from, to) : path, kind]);
    }
    if (isPart) this.note([to, 'made']);
  }
}

/**
 * The changes that stand on `change`, directly or through each other, the latest first: it cannot be undone without them. What
 * was done and undone since then, or undone and done again, is asked where it was done first.
 * @param later all changes that began after it, in their order, with their steps
 */
export function standingOn(change: ChangeRecord, later: readonly ChangeRecord[]): ChangeRecord[] {
  const ground = new Ground();
  ground.add(change);
  const known = new Set([change, ...later].map((c) => c.id));
  const found: ChangeRecord[] = [];
  for (const next of later) {
    if (!wasApplied(next)) continue;
    const isAsked = next.state === 'done' && (next.undoes === null || !known.has(next.undoes));
    if (!ground.isUnder(next, isAsked)) continue;
    ground.add(next);
    found.unshift(next);
  }
  return found;
}

/** A change that took its place on the disk, whether or not it was undone since. */
export const wasApplied = ({ state }: Pick<ChangeRecord, 'state'>): boolean => state === 'done' || state === 'undone';
