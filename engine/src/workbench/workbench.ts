import { existsSync, statSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import { locate, ProblemError, type StoredForm } from '@rootmap/core';
import type {
  AppliedView,
  ChangeView,
  JobView,
  PackPreview,
  PathRequest,
  PointedView,
  MendProjectView,
  ProjectSummary,
  ServerEvent,
} from '@rootmap/core/contract';
import { pack } from '../bundle/pack.js';
import { checkTarget, receive } from '../bundle/receive.js';
import type { ChangeRecord, PlannedChange } from '../changes/change.js';
import { recoverChanges, type Recovery } from '../changes/recover.js';
import { runChange, type RunOptions } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { checkOpened, confine } from '../places/confine.js';
import { toAddress } from '../places/places.js';
import { findScope } from '../project/scope.js';
import type { PathsPlan } from '../project/store-paths.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { projectTable, type ProjectRow } from '../store/tables.js';
import type { PlaceSetting } from '../places/places.js';
import { Jobs } from './jobs.js';
import { PlaceBook } from './place-book.js';
import { Pool } from './pool.js';
import type { ProjectText, TaskBase } from './tasks.js';
import { projectKey } from './view-project.js';
import { watchFolders, type Watched } from './watch.js';

export interface WorkbenchOptions {
  readonly dataFolder: string;
  readonly places: readonly PlaceSetting[];
  readonly worker: URL;
  readonly publish: (event: ServerEvent) => void;
  readonly onBug: (stack: string) => void;
}

interface Open {
  view: Promise<ProjectText> | null;
  watched: Watched | null;
  summary: Pick<ProjectSummary, 'totals' | 'bytes' | 'datasets' | 'maps' | 'title'> | null;
}

const WORKERS = 2;

/** All that the server does, without HTTP: projects, places, mends, bundles, the journal. */
export class Workbench {
  private readonly open = new Map<string, Open>();
  readonly jobs: Jobs;

  private constructor(
    private readonly options: WorkbenchOptions,
    private readonly store: DataSource,
    private readonly journal: SqlJournal,
    readonly places: PlaceBook,
    private readonly pool: Pool,
    readonly recovered: readonly Recovery[],
  ) {
    this.jobs = new Jobs((job) => options.publish({ type: 'job', job }));
  }

  static async start(options: WorkbenchOptions): Promise<Workbench> {
    const store = await openStore(options.dataFolder);
    const journal = new SqlJournal(store);
    const recovered = await recoverChanges(journal);
    const places = await PlaceBook.open(store, options.places);
    return new Workbench(options, store, journal, places, new Pool(options.worker, options.dataFolder, WORKERS, options.onBug), recovered);
  }

  async stop(): Promise<void> {
    await Promise.all([...this.open.values()].map((o) => o.watched?.stop() ?? Promise.resolve()));
    await this.pool.close();
    await this.store.destroy();
  }

  private get run(): RunOptions {
    return { journal: this.journal, program: 'Root Map' };
  }

  /** A path that a request names, inside its place. */
  path(request: PathRequest, mayBeNew = false): string {
    const place = this.places.place(request.place);
    const path = confine(place, request.path, mayBeNew);
    if (existsSync(path)) checkOpened(place, path);
    return path;
  }

  // Projects

  async projects(): Promise<ProjectSummary[]> {
    const rows = await this.store.manager.find(projectTable, { order: { openedMs: 'DESC' } });
    const present = rows.filter((r) => existsSync(r.root));
    return rows.map((row) => {
      const key = projectKey(row.root);
      const summary = this.open.get(key)?.summary;
      const isHere = present.includes(row);
      return {
        key,
        id: row.id,
        title: summary?.title ?? row.title,
        root: row.root,
        place: row.place,
        path: this.below(row.root),
        present: isHere,
        watched: this.open.get(key)?.watched?.how ?? null,
        openedMs: row.openedMs,
        totals: summary?.totals ?? null,
        bytes: summary?.bytes ?? null,
        datasets: summary?.datasets ?? null,
        maps: summary?.maps ?? null,
        isCopy: isHere && present.some((other) => other.root !== row.root && other.id === row.id),
      };
    });
  }

  private below(root: string): string {
    return locate(toAddress(root), this.places.opened())?.segments.join('/') ?? root;
  }

  /** Opens a folder as a project: its own project file, or one further up. A folder without any is opened as it is. */
  async openProject(request: PathRequest): Promise<string> {
    const path = this.path(request);
    if (!statSync(path).isDirectory())
      throw new ProblemError({ code: 'wrong-use', message: `${request.path} is a file. Open the folder it is in.` });
    const scope = findScope(path, { places: this.places.opened() });
    const root = scope.root!;
    const place = locate(toAddress(root), this.places.opened());
    if (!place) throw new ProblemError({ code: 'outside-places', path: root, why: 'its project file is above the place' });
    const row: ProjectRow = {
      id: scope.project?.id ?? projectKey(root),
      root,
      title: scope.project?.title ?? root.slice(root.lastIndexOf('/') + 1),
      place: place.place,
      openedMs: Date.now(),
    };
    await this.store.manager.upsert(projectTable, row, ['id', 'root']);
    this.options.publish({ type: 'projects' });
    return projectKey(root);
  }

  async closeProject(key: string): Promise<void> {
    const row = await this.rowOf(key);
    await this.open.get(key)?.watched?.stop();
    this.open.delete(key);
    await this.store.manager.delete(projectTable, { id: row.id, root: row.root });
    this.options.publish({ type: 'projects' });
  }

  private async rowOf(key: string): Promise<ProjectRow> {
    const row = (await this.store.manager.find(projectTable)).find((r) => projectKey(r.root) === key);
    if (!row) throw new ProblemError({ code: 'not-found', what: 'project', id: key });
    return row;
  }

  private async base(key: string, who = 'web'): Promise<TaskBase> {
    const row = await this.rowOf(key);
    const place = this.places.opened().find((p) => p.name === row.place);
    if (!place?.present) throw new ProblemError({ code: 'place-absent', place: row.place });
    return { places: this.places.all(), root: row.root, who };
  }

  /** What is on disk now, a `ProjectView` as JSON; looked at again only when the watch saw a change, or `fresh` is asked for. */
  async view(key: string, fresh = false): Promise<Uint8Array> {
    const base = await this.base(key);
    const open = this.open.get(key) ?? { view: null, watched: null, summary: null };
    this.open.set(key, open);
    if (fresh) open.view = null;
    const view = (open.view ??= this.look(key, base, open));
    try {
      return (await view).json;
    } catch (error) {
      if (open.view === view) open.view = null; // the next request looks again
      throw error;
    }
  }

  private async look(key: string, base: TaskBase, open: Open): Promise<ProjectText> {
    const seen = await this.pool.run('view', base);
    open.watched ??= await watchFolders([base.root, ...seen.linked], () => this.changed(key));
    const { totals, bytes, title, datasets, maps } = seen;
    open.summary = { totals, bytes, title, datasets, maps };
    this.options.publish({ type: 'projects' });
    return seen;
  }

  private changed(key: string): void {
    const open = this.open.get(key);
    if (open) open.view = null;
    this.options.publish({ type: 'project', key });
  }

  /** Places came, went or were renamed: everything may resolve otherwise now. */
  async placesChanged(): Promise<void> {
    for (const open of this.open.values()) {
      open.view = null;
      await open.watched?.stop();
      open.watched = null;
    }
    this.options.publish({ type: 'places' });
    for (const key of this.open.keys()) this.options.publish({ type: 'project', key });
  }

  // Mending and paths

  private search = (folders: readonly PathRequest[]): string[] => folders.map((f) => this.path(f));

  async mend(key: string, folders: readonly PathRequest[], signal?: AbortSignal): Promise<MendProjectView> {
    return this.pool.run('mend', { ...(await this.base(key)), search: this.search(folders) }, signal ? { signal } : {});
  }

  async applyMend(
    key: string,
    choices: readonly { key: string; path: string }[],
    folders: readonly PathRequest[],
    who: string,
  ): Promise<AppliedView> {
    const base = await this.base(key, who);
    const { change, applied } = await this.pool.run('plan-mend', { ...base, search: this.search(folders), choices });
    return this.apply(key, base, change, applied);
  }

  async point(key: string, layer: string, target: PathRequest, folders: readonly PathRequest[]): Promise<PointedView> {
    return this.pool.run('point', { ...(await this.base(key)), key: layer, path: this.path(target), search: this.search(folders) });
  }

  async paths(key: string, store: StoredForm, map: string | null): Promise<PathsPlan> {
    return this.pool.run('paths', { ...(await this.base(key)), store, map });
  }

  async applyPaths(key: string, store: StoredForm, map: string | null, who: string): Promise<AppliedView> {
    const base = await this.base(key, who);
    const plan = await this.pool.run('paths', { ...base, store, map });
    return this.apply(key, base, plan.change, plan.changes.length);
  }

  async remember(key: string, who: string): Promise<AppliedView> {
    const base = await this.base(key, who);
    const { change, layers } = await this.pool.run('remember', base);
    return this.apply(key, base, change, layers);
  }

  private async apply(key: string, base: TaskBase, change: PlannedChange | null, applied: number): Promise<AppliedView> {
    const done = change && (await runChange(change, this.run));
    this.changed(key);
    this.options.publish({ type: 'journal' });
    return { change: done && viewChange(done), applied, left: await this.pool.run('left', base) };
  }

  // Journal

  async changes(root: string | null): Promise<ChangeView[]> {
    return (await this.journal.list({ ...(root === null ? {} : { root }), limit: 500 })).map(viewChange);
  }

  async undo(id: string, who: string): Promise<{ kept: readonly string[]; change: ChangeView | null }> {
    const undone = await undoChange(id, who, this.run);
    for (const key of this.open.keys()) this.changed(key);
    this.options.publish({ type: 'journal' });
    return { kept: undone.kept, change: undone.change && viewChange(undone.change) };
  }

  // Bundles

  async packPreview(key: string): Promise<PackPreview> {
    return (await this.pool.run('plan-pack', { ...(await this.base(key)), out: null })).preview;
  }

  async startPack(key: string, out: PathRequest, who: string): Promise<JobView> {
    const base = await this.base(key, who);
    const file = this.path(out, true);
    return this.jobs.start('pack', `Bundle ${file.slice(file.lastIndexOf('/') + 1)}`, key, async ({ signal, progress }) => {
      const { plan } = await this.pool.run('plan-pack', { ...base, out: file }, { signal });
      const result = await pack(plan, file, who, this.run, progress, signal);
      this.options.publish({ type: 'journal' });
      return { ...result, out };
    });
  }

  startReceive(bundle: PathRequest, into: PathRequest, who: string): JobView {
    const file = this.path(bundle);
    const target = this.path(into, true);
    checkTarget(target);
    return this.jobs.start('receive', `Receive ${file.slice(file.lastIndexOf('/') + 1)}`, null, async ({ signal, progress }) => {
      const look = (root: string) => this.pool.run('arrival', { places: this.places.all(), root, who });
      const result = await receive(file, target, who, this.places.opened(), this.run, progress, signal, look);
      const key = result.findings.length ? null : await this.openProject(into);
      this.options.publish({ type: 'journal' });
      return { ...result, key };
    });
  }
}

export const viewChange = (c: ChangeRecord): ChangeView => ({
  id: c.id,
  title: c.title,
  kind: c.kind,
  who: c.who,
  createdMs: c.createdMs,
  state: c.state,
  note: c.note,
  files: c.steps.map((s) => s.path),
  canUndo: c.state === 'done' && c.kind !== 'undo' && c.steps.length > 0,
});
