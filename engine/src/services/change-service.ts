import { dirname } from 'node:path';
import type { AppliedView, ChangeView, DeletionView } from '@rootmap/core/contract';
import type { PlannedChange } from '../changes/change.js';
import { runChange, type RunOptions } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { projectKey } from '../project/project-key.js';
import type { MendDecisionRepository } from '../repositories/mend-decision-repository.js';
import type { MissedMoveRepository } from '../repositories/missed-move-repository.js';
import type { SqlJournal } from '../store/sql-journal.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { ChangePort, Ports } from './ports.js';
import type { ProjectService } from './project-service.js';
import type { Recoveries } from './recoveries.js';
import { viewChange } from './view-change.js';

type ChangePorts = Pick<Ports, 'pool' | 'publish'> & {
  readonly journal: SqlJournal;
  readonly projects: ProjectService;
  readonly recoveries: Pick<Recoveries, 'isWaiting'>;
  readonly decisions: Pick<MendDecisionRepository, 'takeBack'>;
  readonly missed: Pick<MissedMoveRepository, 'noteSteps'>;
};

/** Changes on disk: carried out, listed, taken back. */
export class ChangeService implements ChangePort {
  constructor(private readonly ports: ChangePorts) {}

  get run(): RunOptions {
    return { journal: this.ports.journal, program: 'Root Map' };
  }

  /** Carries a planned change out and tells everybody. */
  async apply(key: string, base: TaskBase, change: PlannedChange | null, applied: number, run = this.run): Promise<AppliedView> {
    const done = change && (await runChange(change, run));
    if (done) await this.ports.projects.follow(done);
    const now = await this.ports.projects.base(key, base.who);
    this.ports.projects.changed(now.alone === undefined ? projectKey(now.root) : key);
    this.ports.publish({ type: 'journal' });
    return { change: done && viewChange(done), applied, left: await this.ports.pool.run('left', now) };
  }

  async list(root: string | null): Promise<ChangeView[]> {
    const changes = await this.ports.journal.list({ ...(root === null ? {} : { root }), limit: 500 });
    return changes.map((c) => ({ ...viewChange(c), isWaiting: this.ports.recoveries.isWaiting(c.id) }));
  }

  async undo(id: string, who: string): Promise<{ kept: readonly string[]; change: ChangeView | null }> {
    const undone = await undoChange(id, who, this.run);
    await this.ports.decisions.takeBack(id);
    if (undone.change) {
      await this.ports.projects.follow(undone.change);
      await this.ports.missed.noteSteps(undone.change.steps);
    }
    this.ports.projects.allChanged();
    this.ports.publish({ type: 'journal' });
    return { kept: undone.kept, change: undone.change && viewChange(undone.change) };
  }

  /** Who deleted what stood at a real path, by itself or with a folder above it: an undo brings it back. */
  async deletionOf(path: string): Promise<DeletionView | null> {
    const above = (at: string): string[] => (at === '/' || at === '.' ? [] : [at, ...above(dirname(at))]);
    const deletions = await this.ports.journal.deletionsOf(above(path));
    const nearest = above(path).find((at) => deletions.has(at));
    const change = nearest === undefined ? null : deletions.get(nearest);
    return change ? { id: change.id, title: change.title, ms: change.createdMs } : null;
  }
}
