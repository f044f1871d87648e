import { basename, dirname, isInside, rebase, keptBits } from '../disk/native-path.js';
import type { PlannedStep } from './change.js';
import { PathSteps, selfAndAbove } from './path-steps.js';
import { Tracks } from './tracks.js';

/** Where something is now that is at a path after the steps; its new content, written over what is at `path` now; or that nothing is there. */
export type Origin =
  | { readonly kind: 'now'; readonly path: string }
  | { readonly kind: 'bytes'; readonly bytes: Uint8Array; readonly path: string }
  | { readonly kind: 'folder' }
  | { readonly kind: 'nothing' };

/** Steps of undoing that are planned, to be asked what they would leave. Copies and installs have no place among them. */
export class StepsAhead {
  private readonly steps: PlannedStep[] = [];
  /** By what a step takes away, and by what it brings. */
  private readonly takes = new PathSteps();
  private readonly all = new PathSteps();
  private readonly tracks = new Tracks();
  /** Everything that a step concerns stands in these, or is one of them. */
  private readonly around = new Set<string>();
  private readonly brought = new Map<string, string[]>();

  constructor(before?: StepsAhead) {
    if (before) this.add(before.steps);
  }

  add(steps: readonly PlannedStep[]): void {
    for (const step of steps) {
      const i = this.steps.push(step) - 1;
      this.all.add(step.path, i);
      if (step.kind === 'move') this.all.add(step.from, i);
      for (const path of step.kind === 'move' ? [step.path, step.from] : [step.path])
        for (const folder of selfAndAbove(path)) this.around.add(folder);
      if (step.kind === 'move') this.takes.add(step.from, i);
      if (step.kind === 'trash') this.takes.add(step.path, i);
      if (step.kind === 'move') this.tracks.add({ kind: 'move', from: step.from, to: step.path }, i);
      if (step.kind === 'drop-folder') this.tracks.add({ kind: 'drop', from: step.path }, i);
      if (step.kind === 'folder') this.tracks.add({ kind: 'make', from: step.path }, i);
      if (step.kind !== 'move' && step.kind !== 'write' && step.kind !== 'folder') continue;
      const folder = dirname(step.path);
      const names = this.brought.get(folder);
      if (names) names.push(basename(step.path));
      else this.brought.set(folder, [basename(step.path)]);
    }
  }

  /** What is at a path after them. */
  origin(path: string): Origin {
    let at = path;
    let bytes: Uint8Array | null = null;
    for (let i = this.all.last(at, this.steps.length); i >= 0; i = this.all.last(at, i)) {
      const step = this.steps[i]!;
      if (step.kind === 'move') {
        if (!isInside(step.path, at)) return { kind: 'nothing' };
        at = rebase(at, step.path, step.from);
      } else if (step.kind === 'trash' || step.kind === 'drop-folder') return { kind: 'nothing' };
      else if (step.kind === 'write' && at === step.path) bytes ??= step.after;
      else if (step.kind === 'folder' && at === step.path) return { kind: 'folder' };
    }
    return bytes ? { kind: 'bytes', bytes, path: at } : { kind: 'now', path: at };
  }

  /** Where something goes that is at a path now; null: into the trash. */
  goal(path: string): string | null {
    let at = path;
    for (let i = this.takes.next(at, 0); i >= 0; i = this.takes.next(at, i + 1)) {
      const step = this.steps[i]!;
      if (step.kind !== 'move') return null;
      at = rebase(at, step.from, step.path);
    }
    return at;
  }

  /** Where that is which is at a path now; as if it stayed where that would go into the trash. */
  follow(path: string): string {
    return this.tracks.after(path);
  }

  /** Whether something changes at a path that is there after them, or in it. */
  isConcerned(path: string): boolean {
    return this.around.has(path) || this.origin(path).kind !== 'now' || this.around.has((this.origin(path) as { path: string }).path);
  }

  /** Names that may have come into a folder by the steps, wherever it was then. */
  arrivals(folder: string): readonly string[] {
    const names: string[] = [];
    let at = folder;
    for (let i = this.steps.length; i >= 0; i = this.all.last(at, i)) {
      const step = this.steps[i];
      if (step?.kind === 'move' && isInside(step.path, at)) at = rebase(at, step.path, step.from);
      else if (step) continue;
      names.push(...(this.brought.get(at) ?? []));
    }
    return names;
  }

  /** The bits that are set; null: none are. */
  modeAt(path: string): number | null {
    const set = this.steps.findLast((s) => s.kind === 'mode' && s.path === path);
    return set?.kind === 'mode' ? keptBits(set.mode) : null;
  }
}
