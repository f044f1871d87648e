import { existsSync } from 'node:fs';
import { absoluteAddress, byCodePoint, printAddress, ProblemError, SEND_ALL, WINDOWS_PATH_LIMIT, withParents, joined } from '@rootmap/core';
import type {
  AdoptRequest,
  AdoptView,
  AppliedView,
  EditApplied,
  EditPreview,
  EditRequest,
  HousekeepingView,
  JobView,
  MissedView,
  NewProjectBody,
  NewProjectPreview,
  StarterLink,
  TablesDone,
} from '@rootmap/core/contract';
import { basename, isBelow, pathFrom } from '../disk/native-path.js';
import { pack } from '../bundle/pack.js';
import type { PlannedChange } from '../changes/change.js';
import { runChange, type RunOptions } from '../changes/run-change.js';
import type { StagedContainer } from '../geodatabase/tables/stage-tables.js';
import { stageEmpty } from '../geopackage-write/stage-empty.js';
import { linkTo } from '../links/link-to.js';
import { longestRoot } from '../names/check-project-names.js';
import { linksFrom } from '../project/links-from.js';
import { planNewProject, type NewProjectPlan } from '../project/new-project.js';
import { findScope, locationOf, presentLinks } from '../project/scope.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { MissedMoveRepository } from '../repositories/missed-move-repository.js';
import type { OriginalsService } from './originals-service.js';
import type { Ports } from './ports.js';

/** Copying more than this goes on as a job, with progress and a way to stop it. */
const AS_JOB_BYTES = 64 << 20;

/** What people do in a project's folders: look, plan, move, rename, tidy up, start new projects. */
export class FolderService {
  constructor(
    private readonly ports: Pick<Ports, 'pool' | 'known' | 'projects' | 'places' | 'changes' | 'jobs' | 'publish'>,
    private readonly originals: OriginalsService,
    private readonly missed: MissedMoveRepository,
  ) {}

  private async otherRoots(): Promise<string[]> {
    return this.ports.known.roots();
  }

  /** A `FoldersView` as JSON. */
  async view(key: string, signal: AbortSignal): Promise<Uint8Array> {
    const base = await this.ports.projects.base(key);
    const input = { ...base, roots: await this.otherRoots(), tampered: this.originals.of(base.root) };
    return this.ports.pool.run('folders', input, { signal });
  }

  /** A `LinkedFolderView` as JSON. */
  async linked(key: string, name: string, signal: AbortSignal): Promise<Uint8Array> {
    const base = await this.ports.projects.base(key);
    return this.ports.pool.run('linked-folder', { ...base, roots: await this.otherRoots(), name }, { signal });
  }

  private async planned(key: string, request: EditRequest, who: string, isQuick: boolean) {
    const base = await this.ports.projects.base(key, who);
    const missed = request.kind === 'follow' ? await this.missed.of(base.root) : [];
    return { base, ...(await this.ports.pool.run('edit', { ...base, roots: await this.otherRoots(), request, isQuick, missed })) };
  }

  async preview(key: string, request: EditRequest, isQuick: boolean): Promise<EditPreview> {
    return (await this.planned(key, request, 'web', isQuick)).preview;
  }

  /** Planned afresh from what is on disk now, and carried out. */
  async apply(key: string, request: EditRequest, who: string): Promise<EditApplied> {
    if (request.kind === 'finish') return this.finish(key, request, who);
    const { base, change, preview, moved = [], containers } = await this.planned(key, request, who, true);
    if (change && containers) return this.startContainers(key, base, change, containers);
    if (change && preview.copiedBytes > AS_JOB_BYTES) {
      const job = this.ports.jobs.start('copy', change.title, key, async ({ signal, progress }) => {
        let bytes = 0;
        const onCopied = (more: number, item: string): void =>
          progress({ done: (bytes += more), of: preview.copiedBytes, unit: 'bytes', item });
        const applied = await this.ports.changes.apply(key, base, change, 1, { ...this.ports.changes.run, signal, onCopied });
        await this.missed.note(moved);
        return applied;
      });
      return { change: null, applied: 0, left: 0, job, map: null };
    }
    const applied = await this.ports.changes.apply(key, base, change, change ? Math.max(1, preview.files) : 0);
    await this.missed.note(moved);
    if (request.kind === 'follow') await this.missed.forget(base.root);
    if (request.kind === 'adopt' || request.kind === 'separate') await this.noteAgain(key);
    return { ...applied, job: null, map: preview.added[0]?.map ?? null };
  }

  /** Geodatabases are written anew in a worker, and take their places when all of them are whole. */
  private startContainers(key: string, base: TaskBase, change: PlannedChange, containers: readonly StagedContainer[]): EditApplied {
    const job = this.ports.jobs.start('tables', change.title, key, async ({ signal, progress }): Promise<TablesDone> => {
      const notes: string[] = [];
      const stage: RunOptions['stage'] = async (staged, target) => {
        const order = containers.find((c) => c.target === target)!;
        notes.push(...(await this.ports.pool.run('stage-container', { ...base, order, staged }, { signal, progress })));
      };
      const { change: done } = await this.ports.changes.apply(key, base, change, containers.length, {
        ...this.ports.changes.run,
        signal,
        stage,
      });
      return { change: done, notes };
    });
    return { change: null, applied: 0, left: 0, job, map: null };
  }

  /** The project's id or title changed: the list follows. */
  private async noteAgain(key: string): Promise<void> {
    const row = await this.ports.known.row(key);
    const scope = findScope(row.root, { places: this.ports.places.opened(), root: row.root, withoutMaps: true });
    await this.ports.known.forget(row);
    await this.ports.known.note(row.root, scope.project?.id ?? row.id, scope.project?.title ?? row.title);
    this.ports.publish({ type: 'projects' });
  }

  /** Bundled first; only when the bundle was read back are the links dropped and the project marked done. */
  private async finish(key: string, request: Extract<EditRequest, { kind: 'finish' }>, who: string): Promise<EditApplied> {
    const file = this.ports.places.path(request.bundle, true);
    const { base, change } = await this.planned(key, request, who, true);
    const job = this.ports.jobs.start('finish', `Finish: bundle ${basename(file)}`, key, async ({ signal, progress }) => {
      const { plan } = await this.ports.pool.run(
        'plan-pack',
        { ...base, choices: SEND_ALL, out: file, added: [], unsaved: [], pagesFolder: null },
        { signal },
      );
      const { manifest: _, ...packed } = await pack(plan, file, who, this.ports.changes.run, progress, signal);
      const applied: AppliedView = await this.ports.changes.apply(key, base, change, 1);
      return { ...packed, out: request.bundle, change: applied.change };
    });
    return { change: null, applied: 0, left: 0, job, map: null };
  }

  /** How many changes moved things while this project was away. */
  async missedMoves(key: string): Promise<MissedView> {
    return { moves: (await this.missed.of((await this.ports.projects.base(key)).root)).length };
  }

  async adoption(key: string, { folders, grown }: AdoptRequest): Promise<AdoptView> {
    const base = await this.ports.projects.base(key);
    return this.ports.pool.run('adopt', { ...base, root: grown ? this.ports.places.path(grown) : base.root, folders });
  }

  async housekeeping(key: string, signal: AbortSignal): Promise<HousekeepingView> {
    return this.ports.pool.run('housekeep', await this.ports.projects.base(key), { signal });
  }

  async startDuplicates(key: string): Promise<JobView> {
    const base = await this.ports.projects.base(key);
    return this.ports.jobs.start('duplicates', 'Look for equal files', key, ({ signal, progress }) =>
      this.ports.pool.run('duplicates', base, { signal, progress }),
    );
  }

  async emptyTrash(key: string): Promise<{ bytes: number }> {
    const bytes = await this.ports.pool.run('empty-trash', await this.ports.projects.base(key));
    this.ports.projects.changed(key);
    return { bytes };
  }

  /** What is among the originals now counts as original from here on. */
  async acceptOriginals(key: string): Promise<void> {
    await this.originals.check(await this.ports.projects.base(key), { accept: true });
    this.ports.projects.changed(key);
  }

  // New projects

  private async planNew(body: NewProjectBody, who: string): Promise<{ root: string; plan: NewProjectPlan }> {
    const root = this.ports.places.path(body.at, true);
    const like = body.like === null ? null : await this.ports.projects.base(body.like);
    const places = this.ports.places.opened();
    const likeScope = like && findScope(like.root, { places, root: like.root, withoutMaps: true });
    const source = likeScope?.project;
    const naming = body.naming ?? source?.naming;
    const plan = planNewProject(
      {
        root,
        title: body.title,
        summary: body.summary,
        folders: body.folders,
        crs: body.crs,
        withGeodatabase: body.withGeodatabase,
        ...(naming ? { naming } : {}),
        links: [
          ...(likeScope ? linksFrom(likeScope, root) : []),
          ...body.links
            .filter((l) => !likeScope?.project?.links.some((other) => other.name === l.name))
            .map((l) => linkTo({ root, places }, l.name, this.ports.places.path(l.at), '')),
        ],
      },
      who,
    );
    return { root, plan };
  }

  /** Folders that the known projects link, the most common first: a new project most likely wants them too. */
  async starterLinks(): Promise<StarterLink[]> {
    const places = this.ports.places.opened();
    const found = new Map<string, StarterLink>();
    for (const root of await this.ports.known.roots()) {
      if (!existsSync(root)) continue;
      for (const { name, folder } of presentLinks(findScope(root, { places, root, withoutMaps: true }))) {
        const { place, segments } = locationOf(folder, places);
        found.set(folder, { name, at: { place, path: joined(segments) }, projects: (found.get(folder)?.projects ?? 0) + 1 });
      }
    }
    return [...found.values()].sort((a, b) => b.projects - a.projects || byCodePoint(a.name, b.name));
  }

  async previewNew(body: NewProjectBody): Promise<NewProjectPreview> {
    const { root, plan } = await this.planNew(body, 'web');
    const places = this.ports.places.opened();
    const place = places.find((p) => p.name === body.at.place)!;
    if (place.readOnly) throw new ProblemError({ code: 'read-only', path: root });
    const rootLength = longestRoot(root, places);
    const paths = [...withParents(Object.keys(plan.roles)), pathFrom(root, plan.projectFile)];
    return {
      root,
      shownRoot: printAddress(absoluteAddress(locationOf(root, places), places)),
      created: plan.created.map((p) => (p === root ? '' : isBelow(root, p) ? pathFrom(root, p) : p)),
      longest: Math.max(...paths.map((p) => rootLength + 1 + p.length)),
      limit: WINDOWS_PATH_LIMIT - 1,
      isFilled: plan.created.every((p) => p !== root),
    };
  }

  async createNew(body: NewProjectBody, who: string): Promise<{ key: string }> {
    const { plan } = await this.planNew(body, who);
    await runChange(plan.change, { ...this.ports.changes.run, stage: stageEmpty(body.crs) });
    this.ports.publish({ type: 'journal' });
    return { key: await this.ports.projects.open(body.at) };
  }
}
