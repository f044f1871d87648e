import { existsSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import type {
  AppliedView,
  GeodatabaseFinding,
  GeodatabasesView,
  ImportDone,
  ImportPreview,
  ImportRequest,
  JobView,
  PathRequest,
} from '@rootmap/core/contract';
import { basename } from '../disk/native-path.js';
import { refuseOtherSpelling } from '../disk/other-spelling.js';
import { bringIn } from '../geodatabase/bring-in.js';
import type { ImportPlan } from '../geodatabase/plan-import.js';
import { stageEmpty } from '../geopackage-write/stage-empty.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { JobHandle } from './jobs.js';
import type { Ports } from './ports.js';

/** What people do with geodatabases: look, make, bring data in, check. */
export class GeodatabaseService {
  constructor(private readonly ports: Pick<Ports, 'pool' | 'known' | 'projects' | 'places' | 'changes' | 'jobs'>) {}

  async view(key: string, signal: AbortSignal): Promise<GeodatabasesView> {
    return this.ports.pool.run(
      'geodatabases',
      { ...(await this.ports.projects.base(key)), roots: await this.ports.known.roots() },
      { signal },
    );
  }

  /** An empty one, at a path where nothing stands. */
  async create(key: string, at: PathRequest, crs: string | null, who: string): Promise<AppliedView> {
    const base = await this.ports.projects.base(key, who);
    const path = this.ports.places.path(at, true);
    if (!/\.gpkg$/i.test(path)) throw new ProblemError({ code: 'bad-name', name: basename(path), why: 'a geodatabase ends in .gpkg' });
    if (existsSync(path)) throw new ProblemError({ code: 'exists', path });
    refuseOtherSpelling(path);
    const change = {
      title: `Make the geodatabase ${basename(path)}`,
      kind: 'new' as const,
      root: base.root,
      who,
      steps: [{ kind: 'install' as const, path }],
    };
    return this.ports.changes.apply(key, base, change, 1, { ...this.ports.changes.run, stage: stageEmpty(crs) });
  }

  /** @param aside real path of a file outside the places that may be brought in; null: none */
  private async plan(base: TaskBase, { into, items, crs }: ImportRequest, aside: string | null = null): Promise<ImportPlan> {
    const roots = await this.ports.known.roots();
    return this.ports.pool.run('plan-import', { ...base, roots, path: this.ports.places.path(into, true), items, crs, aside });
  }

  async preview(key: string, request: ImportRequest): Promise<ImportPreview> {
    const { isNew, named, items } = await this.plan(await this.ports.projects.base(key), request);
    return { isNew, named, items };
  }

  /** All of the queue that can be read: one change with one undo. */
  async startImport(key: string, request: ImportRequest, who: string): Promise<JobView> {
    const base = await this.ports.projects.base(key, who);
    const { change, items, path } = await this.plan(base, request);
    if (!change)
      throw new ProblemError({ code: 'wrong-use', message: `Nothing can be brought in: ${items[0]?.why ?? 'nothing is chosen'}.` });
    return this.ports.jobs.start('import', change.title, key, (handle) => this.carryOut(key, base, request, path, null, handle));
  }

  /** A file that was fetched comes into a geodatabase, as one change. */
  async bringFile(key: string, base: TaskBase, request: ImportRequest, aside: string, handle: JobHandle): Promise<ImportDone> {
    const { change, items, path } = await this.plan(base, request, aside);
    if (!change) throw new ProblemError({ code: 'wrong-use', message: `It cannot be brought in: ${items[0]?.why ?? 'nothing came'}.` });
    return this.carryOut(key, base, request, path, aside, handle);
  }

  private async carryOut(
    key: string,
    base: TaskBase,
    request: ImportRequest,
    path: string,
    aside: string | null,
    { signal, progress }: JobHandle,
  ): Promise<ImportDone> {
    const { receipts, failed } = await bringIn(request.items, {
      plan: (left) => this.plan(base, { ...request, items: left }, aside),
      write: (wanted, staged) => {
        const of = wanted.reduce((sum, i) => sum + (i.records ?? 0), 0);
        const before = new Map<string, number>();
        return this.ports.pool.run(
          'write-import',
          { ...base, items: wanted, from: path, staged, makesValid: request.makesValid, aside },
          {
            signal,
            progress: (now) => {
              before.set(now.item, now.done);
              progress({ ...now, done: [...before.values()].reduce((sum, v) => sum + v, 0), of });
            },
          },
        );
      },
      apply: async (change, count, stage) => {
        await this.ports.changes.apply(key, base, change, count, { ...this.ports.changes.run, signal, stage });
      },
    });
    return { geodatabase: path, receipts, failed };
  }

  async check(key: string, at: PathRequest): Promise<readonly GeodatabaseFinding[]> {
    return this.ports.pool.run('check-geodatabase', { ...(await this.ports.projects.base(key)), path: this.ports.places.path(at) });
  }
}
