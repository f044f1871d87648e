import { isInside, rebase } from '../disk/native-path.js';
import type { StepRecord } from './change.js';
import { PathSteps } from './path-steps.js';

/** What happens to where things are. A folder that is dropped, empty, leaves a place in which it can be made again. */
export type Passage =
  | { readonly kind: 'move'; readonly from: string; readonly to: string }
  | { readonly kind: 'drop'; readonly from: string }
  | { readonly kind: 'make'; readonly from: string };

/** Where things are after steps, also those that went into the trash and came out of it. */
export class Tracks {
  private readonly passages: Passage[] = [];
  private readonly steps: number[] = [];
  private readonly sources = new PathSteps();

  static of(steps: readonly StepRecord[]): Tracks {
    const tracks = new Tracks();
    for (const [i, step] of steps.entries()) {
      if (step.kind === 'move') tracks.add({ kind: 'move', from: step.source, to: step.path }, i);
      else if (step.kind === 'trash') tracks.add({ kind: 'move', from: step.path, to: step.temp }, i);
      else if (step.kind === 'drop-folder') tracks.add({ kind: 'drop', from: step.path }, i);
      else if (step.kind === 'folder') tracks.add({ kind: 'make', from: step.path }, i);
    }
    return tracks;
  }

  /** @param step in their order */
  add(passage: Passage, step: number): void {
    this.sources.add(passage.from, this.passages.length);
    this.passages.push(passage);
    this.steps.push(step);
  }

  /** Where that is in the end which stood at `path` before the step with index `from`. */
  after(path: string, from = 0): string {
    let now = path;
    let gone: string | null = null; // the folder around it that is not there now: what else comes to that place is not it
    const first = this.steps.findIndex((i) => i >= from);
    if (first < 0) return path;
    for (let i = this.sources.next(now, first); i >= 0; i = this.sources.next(now, i + 1)) {
      const passage = this.passages[i]!;
      const source = passage.from;
      if (passage.kind === 'make') gone = source === gone ? null : gone;
      else if (gone !== null && isInside(gone, source)) continue;
      else if (passage.kind === 'drop') gone = source;
      else {
        now = rebase(now, source, passage.to);
        gone = gone && rebase(gone, source, passage.to);
      }
    }
    return now;
  }
}
