import type { Journal } from '../changes/journal-port.js';
import { recoverChanges, type Recovery } from '../changes/recover.js';

const LOOK_AGAIN_MS = 3000;
/** So many that a page can show them. */
const KEPT = 20;

/**
 * Changes that were left midway: what became of them since the start, and those that wait for a folder or a disk to come back.
 * They are looked at again for as long as the server runs; none of them keeps it from starting.
 */
export class Recoveries {
  private ended: readonly Recovery[] = [];
  private waiting: readonly Recovery[] = [];
  private looking: Promise<void> = Promise.resolve();
  private timer: NodeJS.Timeout | null = null;

  constructor(
    private readonly journal: Journal,
    private readonly onNews: () => void,
    private readonly onBug: (error: unknown) => void,
  ) {}

  /** The first look, and all that follow from time to time. */
  async start(): Promise<void> {
    await this.look();
    this.timer = setInterval(() => void this.look(), LOOK_AGAIN_MS).unref();
  }

  async stop(): Promise<void> {
    if (this.timer) clearInterval(this.timer);
    await this.looking;
  }

  /** One sentence for each. */
  notices(): string[] {
    return [
      ...this.waiting.map(({ change, why }) => `"${change.title}" is not finished. ${why!} Until then its folder cannot be changed.`),
      ...this.ended.map(({ change, outcome, left }) => {
        const what = `"${change.title}" was left midway; it has been ${outcome === 'finished' ? 'finished' : 'taken back'}.`;
        return left.length ? `${what} Not as planned, and left as they are: ${left.join(', ')}.` : what;
      }),
    ];
  }

  isWaiting(changeId: string): boolean {
    return this.waiting.some(({ change }) => change.id === changeId);
  }

  all(): readonly Recovery[] {
    return [...this.waiting, ...this.ended];
  }

  /** Takes up what can be taken up now. */
  look(): Promise<void> {
    this.looking = this.looking.then(() => this.lookNow()).catch(this.onBug);
    return this.looking;
  }

  private async lookNow(): Promise<void> {
    const found = await recoverChanges(this.journal);
    const before = this.notices().join('\n');
    this.waiting = found.filter((r) => r.outcome === 'waiting');
    this.ended = [...found.filter((r) => r.outcome !== 'waiting'), ...this.ended].slice(0, KEPT);
    if (this.notices().join('\n') !== before) this.onNews();
  }
}
