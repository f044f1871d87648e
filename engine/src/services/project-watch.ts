import { setTimeout as wait } from 'node:timers/promises';
import { watchFolders, type Watched } from './watch.js';

/** A folder that is not watched by then is so large that its first look is not to wait for it. */
const PATIENCE_MS = 500;

/** The watch of one project. */
export class ProjectWatch {
  private starting: Promise<Watched> | null = null;
  how: Watched['how'] | null = null;

  /** @param onChange something changed, or may have before the watch stood */
  constructor(private readonly onChange: () => void) {}

  /** Begins, where it has not begun; comes back when it stands, or after a moment. */
  async begin(folders: readonly string[]): Promise<void> {
    if (this.starting) return;
    const starting = (this.starting = watchFolders(folders, this.onChange));
    let isLate = false;
    const stands = starting.then(({ how }) => {
      if (this.starting !== starting) return; // stopped meanwhile
      this.how = how;
      if (isLate) this.onChange();
    });
    await Promise.race([stands, wait(PATIENCE_MS, undefined, { ref: false }).then(() => (isLate = true))]);
  }

  async stop(): Promise<void> {
    const { starting } = this;
    this.starting = null;
    this.how = null;
    await (await starting)?.stop();
  }
}
