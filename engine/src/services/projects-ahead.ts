import { explain, ProblemError } from '@rootmap/core';
import type { ProjectSummary } from '@rootmap/core/contract';
import type { Pool } from '../pool/pool.js';
import type { TaskBase } from '../tasks/task-base.js';

/** What a list tells of a project. */
export type Glance = Pick<ProjectSummary, 'totals' | 'bytes' | 'datasets' | 'maps' | 'title'>;

interface Looked {
  readonly atMs: number;
  /** Null: it could not be looked at. */
  readonly glance: Glance | null;
  readonly trouble: string | null;
}

/** What was seen so long ago is looked at again when the list is asked for. */
const AGAIN_MS = 10 * 60_000;

interface AheadPorts {
  /** One that others are not kept waiting by. */
  readonly pool: Pool;
  readonly base: (key: string) => Promise<TaskBase>;
  readonly seen: () => Promise<Readonly<Record<string, number>>>;
  readonly onNews: () => void;
  readonly onBug: (error: unknown) => void;
}

/** Looks at projects that nobody has open, one after the other in the background, so that a list tells how they are. */
export class ProjectsAhead {
  private readonly looked = new Map<string, Looked>();
  private waiting: string[] = [];
  private isBusy = false;
  private isStopped = false;

  constructor(private readonly ports: AheadPorts) {}

  of(key: string): Looked | null {
    return this.looked.get(key) ?? null;
  }

  /** Those that were not looked at lately take their turn. */
  want(keys: readonly string[]): void {
    const now = Date.now();
    this.waiting = keys.filter((key) => now - (this.looked.get(key)?.atMs ?? -Infinity) > AGAIN_MS);
    if (!this.isBusy) void this.goOn();
  }

  stop(): void {
    this.isStopped = true;
    this.waiting = [];
  }

  private async goOn(): Promise<void> {
    this.isBusy = true;
    for (let key = this.waiting.shift(); key !== undefined && !this.isStopped; key = this.waiting.shift()) await this.look(key);
    this.isBusy = false;
  }

  private async look(key: string): Promise<void> {
    try {
      const glance = await this.ports.pool.run('glance', { ...(await this.ports.base(key)), seen: await this.ports.seen() });
      this.looked.set(key, { atMs: Date.now(), glance, trouble: null });
    } catch (error) {
      if (this.isStopped) return; // it ended with the server
      if (!(error instanceof ProblemError)) return this.ports.onBug(error);
      this.looked.set(key, { atMs: Date.now(), glance: null, trouble: explain(error.problem) });
    }
    this.ports.onNews();
  }
}
