import type { AppliedView, PathRequest, ServerEvent } from '@rootmap/core/contract';
import type { PlannedChange } from '../changes/change.js';
import type { RunOptions } from '../changes/run-change.js';
import type { Pool } from '../pool/pool.js';
import type { PlaceRepository } from '../repositories/place-repository.js';
import type { ProjectRepository } from '../repositories/project-repository.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { Jobs } from './jobs.js';

export interface ProjectPort {
  /** What every task about the project starts from. Throws where it is not known, or its place is not there. */
  base(key: string, who?: string): Promise<TaskBase>;
  /** Something on disk is not as it was. */
  changed(key: string): void;
  /** Opens a folder as a project; gives its key. */
  open(request: PathRequest): Promise<string>;
}
export interface ChangePort {
  readonly run: RunOptions;
  /** Carries a planned change out and tells everybody. */
  apply(key: string, base: TaskBase, change: PlannedChange | null, applied: number, run?: RunOptions): Promise<AppliedView>;
}

/** What a service may lean on. Each says which of these it uses, and is given no more. */
export interface Ports {
  /** Runs what reads the disk at length. */
  readonly pool: Pick<Pool, 'run'>;
  readonly places: Pick<PlaceRepository, 'path' | 'all' | 'opened'>;
  /** The projects that are known here, open or not. */
  readonly known: Pick<ProjectRepository, 'roots' | 'rows' | 'row' | 'note' | 'forget'>;
  readonly projects: ProjectPort;
  readonly changes: ChangePort;
  readonly jobs: Pick<Jobs, 'start'>;
  readonly publish: (event: ServerEvent) => void;
  /** Something failed that nobody waits for. */
  readonly onBug: (error: unknown) => void;
}
