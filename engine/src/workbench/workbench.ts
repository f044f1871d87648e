import { existsSync, realpathSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { DataSource } from 'typeorm';
import { locate, ProblemError, type Place, type StoredForm } from '@rootmap/core';
import type {
  AppliedView,
  ChangeView,
  JobView,
  PackPreview,
  PathRequest,
  PointedView,
  DeletionView,
  MendRequest,
  LookReplacementRequest,
  PointRequest,
  RejectRequest,
  ReplaceRequest,
  ReplacementView,
  SearchRequest,
  ProjectSummary,
  ServerEvent,
} from '@rootmap/core/contract';
import { pack } from '../bundle/pack.js';
import { checkTarget, receive } from '../bundle/receive.js';
import type { ChangeRecord, PlannedChange } from '../changes/change.js';
import { runChange, type RunOptions } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { isInside, setBounds, type Bounds } from '../disk/bounds.js';
import { rmSync } from '../disk/files.js';
import { setScratch } from '../disk/scratch.js';
import { confine } from '../places/confine.js';
import { realRoot, toAddress } from '../places/places.js';
import { findScope } from '../project/scope.js';
import type { PathsPlan } from '../project/store-paths.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import type { ProjectRow } from '../store/tables.js';
import type { PlaceSetting } from '../places/places.js';
import { lockDataFolder } from './data-folder-lock.js';
import { ExportService } from './export-service.js';
import { FolderService } from './folder-service.js';
import { GeodatabaseService } from './geodatabase-service.js';
import { DraftRepository } from './draft-repository.js';
import { Jobs } from './jobs.js';
import { MapService } from './map-service.js';
import { LoneMaps } from './lone-maps.js';
import { MendDecisionRepository } from './mend-decision-repository.js';
import { MissedMoveRepository } from './missed-move-repository.js';
import { OriginalsService } from './originals-service.js';
import { PictureService } from './picture-service.js';
import { PlaceRepository } from './place-repository.js';
import { PlanRepository } from './plan-repository.js';
import { Pool, scratchFolder } from './pool.js';
import { ProjectRepository } from './project-repository.js';
import { Recoveries } from './recoveries.js';
import { SharedWork } from './shared-work.js';
import { SeenFolderRepository } from './seen-folder-repository.js';
import { SourceService } from './source-service.js';
import type { TaskBase } from './task-base.js';
import type { ProjectText } from './tasks.js';
import { ProjectWatch } from './project-watch.js';
import { projectKey } from '../project/project-key.js';

export interface WorkbenchOptions {
  readonly dataFolder: string;
  readonly places: readonly PlaceSetting[];
  readonly worker: URL;
  readonly publish: (event: ServerEvent) => void;
  readonly onBug: (stack: string) => void;
  /** How long one geodatabase may be read without a word of progress. */
  readonly readLimitMs?: number;
}

interface Open {
  view: SharedWork<ProjectText> | null;
  readonly watch: ProjectWatch;
  summary: Pick<ProjectSummary, 'totals' | 'bytes' | 'datasets' | 'maps' | 'title'> | null;
}

const WORKERS = 2;
/** A root that was not found is not looked for again at once. */
const SEARCH_AGAIN_MS = 5000;

/** All that the server does, without HTTP: projects, places, mends, bundles, the journal. */
export class Workbench {
  private readonly open = new Map<string, Open>();
  readonly jobs: Jobs;
  /** Changes that were left midway. */
  readonly recoveries: Recoveries;
  readonly book: ProjectRepository;
  readonly originals: OriginalsService;
  readonly missed: MissedMoveRepository;
  private readonly decisions: MendDecisionRepository;
  private readonly seen: SeenFolderRepository;
  readonly plans: PlanRepository;
  /** What people do in a project's folders. */
  readonly folders: FolderService;
  /** What people do with data that comes in. */
  readonly sources: SourceService;
  readonly pictures: PictureService;
  readonly geodatabases: GeodatabaseService;
  readonly exports: ExportService;
  readonly maps: MapService;
  /** Maps that are mended by themselves. */
  readonly loneMaps: LoneMaps;
  private readonly searching = new Set<string>();

  private constructor(
    private readonly options: WorkbenchOptions,
    private readonly store: DataSource,
    private readonly unlock: () => void,
    private readonly journal: SqlJournal,
    readonly places: PlaceRepository,
    readonly pool: Pool,
    private readonly picturePools: readonly [Pool, Pool],
  ) {
    this.recoveries = new Recoveries(
      journal,
      () => this.brought(),
      (error) => this.bug(error),
    );
    this.jobs = new Jobs(
      (job) => options.publish({ type: 'job', job }),
      (error) => this.bug(error),
    );
    this.book = new ProjectRepository(store, places);
    this.originals = new OriginalsService(store, pool);
    this.missed = new MissedMoveRepository(store, this.book);
    this.decisions = new MendDecisionRepository(store);
    this.plans = new PlanRepository(store);
    this.seen = new SeenFolderRepository(store);
    this.folders = new FolderService(this);
    this.sources = new SourceService(this, join(options.dataFolder, 'arrivals'));
    this.geodatabases = new GeodatabaseService(this);
    this.loneMaps = new LoneMaps(this);
    this.exports = new ExportService(this);
    this.maps = new MapService(this, new DraftRepository(store), join(options.dataFolder, 'cache', 'maps'));
    this.pictures = new PictureService(this, ...picturePools);
  }

  static async start(options: WorkbenchOptions): Promise<Workbench> {
    const store = await openStore(options.dataFolder);
    const unlock = await lockOrClose(options.dataFolder, store);
    const journal = new SqlJournal(store);
    const places = await PlaceRepository.open(store, options.places);
    setBounds(boundsOf(places, options.dataFolder));
    rmSync(scratchFolder(options.dataFolder)); // of processes that ended before they could tidy up
    setScratch(join(scratchFolder(options.dataFolder), 'server'));
    const { worker: script, dataFolder, onBug, readLimitMs } = options;
    const limit = readLimitMs === undefined ? {} : { readLimitMs };
    const poolOf = (size: number, niceness = 0): Pool => new Pool({ script, dataFolder, size, onBug, niceness, ...limit });
    // Pictures step back, so that the page that shows them answers while they are made.
    const bench = new Workbench(options, store, unlock, journal, places, poolOf(WORKERS), [poolOf(1, 5), poolOf(1, 15)]);
    await bench.recoveries.start();
    return bench;
  }

  async stop(): Promise<void> {
    await this.recoveries.stop();
    await Promise.all([...this.open.values()].map((o) => o.watch.stop()));
    await Promise.all([this.pool, ...this.picturePools].map((pool) => pool.close()));
    await this.store.destroy();
    this.unlock();
  }

  get run(): RunOptions {
    return { journal: this.journal, program: 'Root Map' };
  }

  /** Something failed that nobody waits for. */
  bug(error: unknown): void {
    this.options.onBug(String((error as Error).stack ?? error));
  }

  publish(event: ServerEvent): void {
    this.options.publish(event);
  }

  /** A path that a request names, inside its place. */
  path(request: PathRequest, mayBeNew = false): string {
    const place = this.places.place(request.place);
    return confine(place, request.path, mayBeNew);
  }

  // Projects

  async projects(): Promise<ProjectSummary[]> {
    const rows = await this.book.rows();
    for (const row of rows) if (this.book.isVanished(row)) this.lookForVanished(row);
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
        watched: this.open.get(key)?.watch.how ?? null,
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
    const title = scope.project?.title ?? root.slice(root.lastIndexOf('/') + 1);
    await this.book.note(root, scope.project?.id ?? projectKey(root), title);
    this.options.publish({ type: 'projects' });
    return projectKey(root);
  }

  async closeProject(key: string): Promise<void> {
    const row = await this.book.row(key);
    await this.shut(projectKey(row.root));
    await this.book.forget(row);
    this.options.publish({ type: 'projects' });
  }

  private async shut(key: string): Promise<void> {
    await this.open.get(key)?.watch.stop();
    this.open.delete(key);
  }

  /** A root that is gone while its place is there has moved, or was deleted: it is looked for by its id, in the background. */
  private lookForVanished(row: ProjectRow): void {
    if (this.searching.has(row.root)) return;
    this.searching.add(row.root);
    const limit = this.places.all().find((p) => p.name === row.place)?.folder ?? row.root;
    const base = { places: this.places.all(), root: row.root, who: 'watch', id: row.id, limit };
    const look = async (): Promise<void> => {
      const found = await this.pool.run('find-vanished', base);
      const known = await this.book.roots();
      const [root, ...others] = found.filter((f) => !known.includes(f));
      if (root === undefined || others.length > 0) return; // none, or copies that cannot be told apart
      await this.book.moveRow(row, root);
      await this.moved(projectKey(row.root), row.root, root);
    };
    look()
      .catch((error: unknown) => this.bug(error))
      .finally(() => setTimeout(() => this.searching.delete(row.root), SEARCH_AGAIN_MS).unref());
  }

  private async moved(key: string, from: string, to: string): Promise<void> {
    await this.shut(key);
    await this.originals.move(from, to);
    this.options.publish({ type: 'projects' });
    this.options.publish({ type: 'project', key });
  }

  async base(key: string, who = 'web'): Promise<TaskBase> {
    const lone = this.loneMaps.base(key, who);
    if (lone) return lone;
    const row = await this.book.row(key);
    const place = this.places.opened().find((p) => p.name === row.place);
    if (!place?.present) throw new ProblemError({ code: 'place-absent', place: row.place });
    checkStands(row.root, place);
    return { places: this.places.all(), root: row.root, who };
  }

  /** What is on disk now, a `ProjectView` as JSON; looked at again only when the watch saw a change, or `fresh` is asked for. */
  async view(address: string, fresh = false, signal?: AbortSignal): Promise<Uint8Array> {
    const base = await this.base(address);
    const key = projectKey(base.root); // another one where the root has moved since
    const open = this.open.get(key) ?? { view: null, watch: new ProjectWatch(() => this.changed(key)), summary: null };
    this.open.set(key, open);
    if (fresh || open.view?.isEnded) open.view = null;
    const view = (open.view ??= new SharedWork((end) => this.look(key, base, open, end)));
    try {
      return (await view.join(signal)).json;
    } catch (error) {
      if (open.view === view) open.view = null; // the next request looks again
      throw error;
    }
  }

  private async look(key: string, base: TaskBase, open: Open, signal: AbortSignal): Promise<ProjectText> {
    const seen = await this.pool.run('view', { ...base, seen: await this.seen.all() }, { signal });
    await this.seen.note(seen.linked);
    await open.watch.begin([base.root, ...seen.linked]);
    const { totals, bytes, title, datasets, maps } = seen;
    open.summary = { totals, bytes, title, datasets, maps };
    this.options.publish({ type: 'projects' });
    this.checkOriginals(key, base);
    return seen;
  }

  private checkOriginals(key: string, base: TaskBase): void {
    this.originals.check(base).then(
      (isNews) => isNews && this.options.publish({ type: 'project', key }),
      (error: unknown) => this.bug(error),
    );
  }

  /** Something on disk is not as it was: whoever shows the project looks again. */
  changed(address: string): void {
    const open = this.open.get(address);
    if (open) open.view = null;
    this.options.publish({ type: 'project', key: address });
    this.book.row(address).then(
      (row) => this.book.isVanished(row) && this.lookForVanished(row),
      () => undefined, // closed meanwhile: nobody asks for it any more
    );
  }

  /** After a change of our own: projects whose roots it moved go on at their new place. */
  async follow(change: ChangeRecord): Promise<void> {
    const before = await this.book.rows();
    for (const key of await this.book.follow(change.steps)) {
      const from = before.find((r) => projectKey(r.root) === key)!.root;
      await this.moved(key, from, (await this.book.row(key)).root);
    }
  }

  /** Something that was left midway came to its end, or waits: files may be other ones. */
  private brought(): void {
    for (const key of this.open.keys()) this.changed(key);
    this.options.publish({ type: 'journal' });
  }

  /** Places came, went or were renamed: everything may resolve otherwise now. */
  async placesChanged(): Promise<void> {
    await this.recoveries.look();
    for (const open of this.open.values()) {
      open.view = null;
      await open.watch.stop();
    }
    this.options.publish({ type: 'places' });
    for (const key of this.open.keys()) this.options.publish({ type: 'project', key });
  }

  // Mending and paths

  private async mendBase(key: string, { search, reach }: SearchRequest, who?: string) {
    return { ...(await this.base(key, who)), search: search.map((f) => this.path(f)), reach, decisions: await this.decisions.read() };
  }

  /** What explains the broken layers, a `MendProjectView` as JSON; what it is on is told to everybody who shows it. */
  async mend(key: string, search: SearchRequest, signal?: AbortSignal): Promise<Uint8Array> {
    const progress = (path: string): void => {
      const at = locate(toAddress(path), this.places.opened());
      this.options.publish({ type: 'search', key, item: at ? [at.place, ...at.segments].join('/') : path });
    };
    return this.pool.run('mend', await this.mendBase(key, search), { progress, ...(signal ? { signal } : {}) });
  }

  /** Who deleted what stood at a real path, by itself or with a folder above it: an undo brings it back. */
  async deletionOf(path: string): Promise<DeletionView | null> {
    const above = (at: string): string[] => (at === '/' || at === '.' ? [] : [at, ...above(dirname(at))]);
    const deletions = await this.journal.deletionsOf(above(path));
    const change = above(path).map((at) => deletions.get(at)).find((c) => c !== undefined); // prettier-ignore
    return change ? { id: change.id, title: change.title, ms: change.createdMs } : null;
  }

  async applyMend(key: string, { choices, styles, ...search }: MendRequest, who: string): Promise<AppliedView> {
    const base = await this.mendBase(key, search, who);
    const { change, applied, accepted } = await this.pool.run('plan-mend', { ...base, choices, styles });
    const done = await this.apply(key, base, change, applied);
    if (done.change) await this.decisions.accept(accepted, done.change.id);
    return done;
  }

  /** 'Not this one': the layer is never offered that dataset again. */
  async rejectCandidate(key: string, { search, reach, ...which }: RejectRequest & SearchRequest): Promise<void> {
    await this.decisions.reject(await this.pool.run('reject', { ...(await this.mendBase(key, { search, reach })), ...which }));
  }

  forgiveRejected(layers: readonly string[]): Promise<number> {
    return this.decisions.forgive(layers);
  }

  async point(key: string, { key: layer, target, ...search }: PointRequest): Promise<PointedView> {
    return this.pool.run('point', { ...(await this.mendBase(key, search)), key: layer, path: this.path(target) });
  }

  /** What giving a layer other data on purpose would mean. Reads only. */
  async replacement(key: string, { target, ...which }: LookReplacementRequest): Promise<ReplacementView> {
    return this.pool.run('replacement', { ...(await this.base(key)), ...which, path: target && this.path(target) });
  }

  async replaceData(key: string, { target, ...order }: ReplaceRequest, who: string): Promise<AppliedView> {
    const base = await this.base(key, who);
    const change = await this.pool.run('plan-replace', { ...base, ...order, path: target && this.path(target) });
    return this.apply(key, base, change, order.layers.length);
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

  /** Carries a planned change out and tells everybody. */
  async apply(key: string, base: TaskBase, change: PlannedChange | null, applied: number, run = this.run): Promise<AppliedView> {
    const done = change && (await runChange(change, run));
    if (done) await this.follow(done);
    const now = await this.base(key, base.who);
    this.changed(now.alone === undefined ? projectKey(now.root) : key);
    this.options.publish({ type: 'journal' });
    return { change: done && viewChange(done), applied, left: await this.pool.run('left', now) };
  }

  // Journal

  async changes(root: string | null): Promise<ChangeView[]> {
    const changes = await this.journal.list({ ...(root === null ? {} : { root }), limit: 500 });
    return changes.map((c) => ({ ...viewChange(c), isWaiting: this.recoveries.isWaiting(c.id) }));
  }

  async undo(id: string, who: string): Promise<{ kept: readonly string[]; change: ChangeView | null }> {
    const undone = await undoChange(id, who, this.run);
    await this.decisions.takeBack(id);
    if (undone.change) {
      await this.follow(undone.change);
      await this.missed.noteSteps(undone.change.steps);
    }
    for (const key of this.open.keys()) this.changed(key);
    this.options.publish({ type: 'journal' });
    return { kept: undone.kept, change: undone.change && viewChange(undone.change) };
  }

  // Bundles

  async packPreview(key: string, signal: AbortSignal): Promise<PackPreview> {
    return (await this.pool.run('plan-pack', { ...(await this.base(key)), out: null }, { signal })).preview;
  }

  async startPack(key: string, out: PathRequest, who: string): Promise<JobView<'pack'>> {
    const base = await this.base(key, who);
    const file = this.path(out, true);
    return this.jobs.start('pack', `Bundle ${file.slice(file.lastIndexOf('/') + 1)}`, key, async ({ signal, progress }) => {
      const { plan } = await this.pool.run('plan-pack', { ...base, out: file }, { signal });
      const result = await pack(plan, file, who, this.run, progress, signal);
      this.options.publish({ type: 'journal' });
      return { ...result, out };
    });
  }

  startReceive(bundle: PathRequest, into: PathRequest, who: string): JobView<'receive'> {
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

/** A root that was replaced by a link, or whose place is another folder now, is not the project's: nothing is read or written there. */
function checkStands(root: string, place: Place): void {
  if (existsSync(root) && !isInside(realRoot(place), realpathSync(root)))
    throw new ProblemError({ code: 'outside-places', path: root, why: `it does not stand in the place ${place.name} any more` });
}

async function lockOrClose(dataFolder: string, store: DataSource): Promise<() => void> {
  try {
    return lockDataFolder(dataFolder);
  } catch (error) {
    await store.destroy();
    throw error;
  }
}

const BOUNDS_MS = 250;

/** Bounds of a server, looked up anew from time to time: a place that is back may stand elsewhere. */
function boundsOf(places: PlaceRepository, dataFolder: string): () => Bounds {
  const own = [...new Set([dataFolder, realpathSync(dataFolder)])];
  let known: Bounds = { places: [], own };
  let of: readonly PlaceSetting[] | null = null;
  let atMs = 0;
  return () => {
    if (of === places.all() && performance.now() - atMs < BOUNDS_MS) return known;
    [of, atMs] = [places.all(), performance.now()];
    return (known = { places: places.opened().map(realRoot), own });
  };
}

export const viewChange = (c: ChangeRecord): ChangeView => ({
  id: c.id,
  title: c.title,
  kind: c.kind,
  who: c.who,
  createdMs: c.createdMs,
  state: c.state,
  isWaiting: false,
  note: c.note,
  files: c.steps.map((s) => s.path),
  canUndo: c.state === 'done' && c.kind !== 'undo' && c.steps.length > 0,
});
