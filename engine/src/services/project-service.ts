import { existsSync, statSync } from 'node:fs';
import { locateHere, ProblemError, type Asked, type Place, joined } from '@rootmap/core';
import type { PathRequest, ProjectSummary } from '@rootmap/core/contract';
import { basename, isBelow, toAddress, isInside } from '../disk/native-path.js';
import { realPath } from '../disk/real-path.js';
import type { ChangeRecord } from '../changes/change.js';
import type { SqlJournal } from '../store/sql-journal.js';
import { realRoot } from '../places/places.js';
import { projectKey } from '../project/project-key.js';
import { findScope } from '../project/scope.js';
import type { PlaceRepository } from '../repositories/place-repository.js';
import type { ProjectRepository } from '../repositories/project-repository.js';
import type { SeenFolderRepository } from '../repositories/seen-folder-repository.js';
import type { ProjectRow } from '../store/tables.js';
import type { ProjectText } from '../tasks/project-tasks.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { OpenMaps } from './open-maps.js';
import type { OriginalsOptions } from '../folders/originals.js';
import type { OriginalsService } from './originals-service.js';
import type { Ports, ProjectPort } from './ports.js';
import { ProjectsAhead, type Glance } from './projects-ahead.js';
import type { Pool } from '../pool/pool.js';
import { ProjectWatch } from './project-watch.js';
import { SharedWork } from './shared-work.js';

interface OpenProject {
  view: SharedWork<ProjectText> | null;
  readonly watch: ProjectWatch;
  summary: Glance | null;
}

/** A root that was not found is not looked for again at once. */
const SEARCH_AGAIN_MS = 5000;

type ProjectPorts = Pick<Ports, 'pool' | 'publish' | 'onBug'> & {
  readonly places: PlaceRepository;
  readonly known: ProjectRepository;
  readonly seen: SeenFolderRepository;
  readonly originals: OriginalsService;
  readonly openMaps: OpenMaps;
  /** For what nobody waits for. */
  readonly background: Pool;
  readonly journal: Pick<SqlJournal, 'lastChanges'>;
  /** What came of asking services, by their addresses. */
  readonly asked: () => ReadonlyMap<string, Asked>;
};

/** Projects: which are known, what is on disk in one of them now, and where it went. */
export class ProjectService implements ProjectPort {
  private readonly opened = new Map<string, OpenProject>();
  private readonly searching = new Set<string>();

  private readonly ahead: ProjectsAhead;

  constructor(private readonly ports: ProjectPorts) {
    this.ahead = new ProjectsAhead({
      pool: ports.background,
      base: (key) => this.base(key),
      seen: () => ports.seen.all(),
      onNews: () => ports.publish({ type: 'projects' }),
      onBug: ports.onBug,
    });
  }

  async stop(): Promise<void> {
    this.ahead.stop();
    await Promise.all([...this.opened.values()].map((o) => o.watch.stop()));
  }

  async list(): Promise<ProjectSummary[]> {
    const rows = await this.ports.known.rows();
    for (const row of rows) if (this.ports.known.isVanished(row)) this.lookForVanished(row);
    const present = rows.filter((r) => existsSync(r.root));
    this.told = standingOf(rows, present);
    const changes = [...(await this.ports.journal.lastChanges())];
    const changedMs = (root: string): number | null =>
      changes.reduce<number | null>((last, [at, ms]) => (at === root || isBelow(root, at) ? Math.max(last ?? 0, ms) : last), null);
    this.ahead.want(present.map((r) => projectKey(r.root)).filter((key) => !this.opened.get(key)?.summary));
    return rows.map((row) => {
      const key = projectKey(row.root);
      const looked = this.ahead.of(key);
      const summary = this.opened.get(key)?.summary ?? looked?.glance;
      const isHere = present.includes(row);
      return {
        key,
        id: row.id,
        title: summary?.title ?? row.title,
        root: row.root,
        place: this.ports.known.placeOf(row)?.name ?? row.place,
        path: this.below(row.root),
        present: isHere,
        away: isHere ? null : this.whyAway(row),
        cameFrom: this.cameFrom(key),
        watched: this.opened.get(key)?.watch.how ?? null,
        openedMs: row.openedMs,
        changedMs: changedMs(row.root),
        totals: (isHere && summary?.totals) || null, // what is away is neither sound nor not
        trouble: (isHere && !summary && looked?.trouble) || null,
        bytes: (isHere ? summary?.bytes : null) ?? null,
        datasets: summary?.datasets ?? null,
        maps: summary?.maps ?? null,
        isCopy: isHere && present.some((other) => other.root !== row.root && other.id === row.id),
      };
    });
  }

  /** Which folders of projects were there when the list was asked for last; null: it was not. */
  private told: string | null = null;
  /** Folders of projects that came or went since are told, also of those that nobody has open. */
  async lookAtRoots(): Promise<void> {
    if (this.told === null) return;
    const rows = await this.ports.known.rows();
    const now = standingOf(
      rows,
      rows.filter((r) => existsSync(r.root)),
    );
    if (now !== this.told) this.ports.publish({ type: 'projects' });
    this.told = now;
  }

  private whyAway(row: ProjectRow): ProjectSummary['away'] {
    const place = this.ports.known.placeOf(row);
    return !place ? 'no-place' : place.present ? 'folder' : 'place';
  }

  private cameFrom(key: string): string | null {
    const from = this.ports.known.cameFrom(key);
    return from && this.below(from);
  }

  /**
   * Looks for a project whose folder is gone in its place, by its id. Found in one folder it is followed; found in several, a
   * person says which it is. Gives where, below the place.
   */
  async find(key: string): Promise<{ found: string[] }> {
    const row = await this.ports.known.row(key);
    if (existsSync(row.root)) return { found: [this.below(row.root)] };
    const place = this.ports.known.placeOf(row);
    if (!place?.present) throw new ProblemError({ code: 'place-absent', place: place?.name ?? row.place });
    return { found: (await this.findVanished(row)).map((root) => this.below(root)) };
  }

  private below(root: string): string {
    const at = locateHere(toAddress(root), this.ports.places.opened());
    return at ? joined(at.segments) : root;
  }

  /** Opens a folder as a project: its own project file, or one further up. A folder without any is opened as it is. */
  async open(request: PathRequest): Promise<string> {
    const path = this.ports.places.path(request);
    if (!statSync(path).isDirectory())
      throw new ProblemError({ code: 'wrong-use', message: `${request.path} is a file. Open the folder it is in.` });
    const scope = findScope(path, { places: this.ports.places.opened() });
    const root = scope.root!;
    const title = scope.project?.title ?? basename(root);
    await this.ports.known.note(root, scope.project?.id ?? projectKey(root), title);
    this.ports.publish({ type: 'projects' });
    return projectKey(root);
  }

  async close(key: string): Promise<void> {
    const row = await this.ports.known.row(key);
    await this.shut(projectKey(row.root));
    await this.ports.known.forget(row);
    this.ports.publish({ type: 'projects' });
  }

  private async shut(key: string): Promise<void> {
    await this.opened.get(key)?.watch.stop();
    this.opened.delete(key);
  }

  /** A root that is gone while its place is there has moved, or was deleted: it is looked for by its id, in the background. */
  private lookForVanished(row: ProjectRow): void {
    if (this.searching.has(row.root)) return;
    this.searching.add(row.root);
    this.findVanished(row)
      .catch((error: unknown) => this.ports.onBug(error))
      .finally(() => setTimeout(() => this.searching.delete(row.root), SEARCH_AGAIN_MS).unref());
  }

  private async findVanished(row: ProjectRow): Promise<string[]> {
    const place = this.ports.known.placeOf(row)?.name;
    const limit = this.ports.places.all().find((p) => p.name === place)?.folder ?? row.root;
    const base = { places: this.ports.places.all(), root: row.root, who: 'watch', id: row.id, limit };
    const known = await this.ports.known.roots();
    const found = (await this.ports.pool.run('find-vanished', base)).filter((f) => !known.includes(f));
    const [root, ...others] = found;
    if (root === undefined || others.length > 0) return found; // none, or copies that cannot be told apart
    await this.ports.known.moveRow(row, root);
    await this.moved(projectKey(row.root), row.root, root);
    return found;
  }

  private async moved(key: string, from: string, to: string): Promise<void> {
    await this.shut(key);
    await this.ports.originals.move(from, to);
    this.ports.publish({ type: 'projects' });
    this.ports.publish({ type: 'project', key });
  }

  async base(key: string, who = 'web'): Promise<TaskBase> {
    const lone = this.ports.openMaps.base(key, who);
    if (lone) return lone;
    const row = await this.ports.known.row(key);
    const place = this.ports.known.placeOf(row);
    if (!place) throw new ProblemError({ code: 'outside-places', path: row.root, why: 'it stands in none of the places' });
    if (!place.present) throw new ProblemError({ code: 'place-absent', place: place.name });
    checkStands(row.root, place);
    const asked = this.ports.asked();
    return { places: this.ports.places.all(), root: row.root, who, ...(asked.size > 0 ? { asked } : {}) };
  }

  /** What is on disk now, a `ProjectView` as JSON; looked at again only when the watch saw a change, or `fresh` is asked for. */
  async view(address: string, fresh = false, signal?: AbortSignal): Promise<Uint8Array> {
    const base = await this.base(address);
    const key = projectKey(base.root); // another one where the root has moved since
    const open = this.opened.get(key) ?? { view: null, watch: new ProjectWatch(() => this.changed(key)), summary: null };
    this.opened.set(key, open);
    if (fresh || open.view?.isEnded) open.view = null;
    const view = (open.view ??= new SharedWork((end) => this.look(key, base, open, end)));
    try {
      return (await view.join(signal)).json;
    } catch (error) {
      if (open.view === view) open.view = null; // the next request looks again
      throw error;
    }
  }

  private async look(key: string, base: TaskBase, open: OpenProject, signal: AbortSignal): Promise<ProjectText> {
    const seen = await this.ports.pool.run('view', { ...base, seen: await this.ports.seen.all() }, { signal });
    await this.ports.seen.note(seen.linked);
    await open.watch.begin([base.root, ...seen.linked]);
    const { totals, bytes, title, datasets, maps } = seen;
    open.summary = { totals, bytes, title, datasets, maps };
    this.ports.publish({ type: 'projects' });
    this.checkOriginals(key, base);
    return seen;
  }

  private checkOriginals(key: string, base: TaskBase, own: OriginalsOptions['own'] = []): void {
    this.ports.originals.check(base, { own }).then(
      (isNews) => isNews && this.ports.publish({ type: 'project', key }),
      (error: unknown) => isCancelled(error) || this.ports.onBug(error), // it ends with the server
    );
  }

  /** Something on disk is not as it was: whoever shows the project looks again. */
  changed(address: string): void {
    const open = this.opened.get(address);
    if (open) open.view = null;
    this.ports.publish({ type: 'project', key: address });
    this.ports.known.row(address).then(
      (row) => this.ports.known.isVanished(row) && this.lookForVanished(row),
      () => undefined, // closed meanwhile: nobody asks for it any more
    );
  }

  /** After a change of our own: projects whose roots it moved go on at their new place. */
  async follow(change: ChangeRecord): Promise<void> {
    const before = await this.ports.known.rows();
    for (const key of await this.ports.known.follow(change.steps)) {
      const from = before.find((r) => projectKey(r.root) === key)!.root;
      await this.moved(key, from, (await this.ports.known.row(key)).root);
    }
    for (const root of await this.ports.known.roots()) await this.followOriginals(root, change.steps);
  }

  /** What the app itself did to originals is no reason for alarm. */
  private async followOriginals(root: string, steps: ChangeRecord['steps']): Promise<void> {
    const touches = (path: string): boolean => isBelow(root, path);
    const own = steps.flatMap((s) => {
      const source = s.kind === 'move' ? s.source : null;
      return touches(s.path) || (source !== null && touches(source))
        ? [{ kind: s.kind, path: s.path, ...(source === null ? {} : { source }) }]
        : [];
    });
    if (own.length === 0) return;
    try {
      const key = projectKey(root);
      this.checkOriginals(key, await this.base(key), own);
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error; // it is away: looked at when it is back
    }
  }

  /** Files may be other ones in any of them. */
  allChanged(): void {
    for (const key of this.opened.keys()) this.changed(key);
  }

  /** Places came, went or were renamed: everything may resolve otherwise now. */
  async placesChanged(): Promise<void> {
    for (const open of this.opened.values()) {
      open.view = null;
      await open.watch.stop();
    }
    this.ports.publish({ type: 'places' });
    for (const key of this.opened.keys()) this.ports.publish({ type: 'project', key });
  }
}

const standingOf = (rows: readonly ProjectRow[], present: readonly ProjectRow[]): string =>
  JSON.stringify(rows.map((r) => [r.root, present.includes(r)]));

const isCancelled = (error: unknown): boolean => error instanceof ProblemError && error.problem.code === 'cancelled';

/** A root that was replaced by a link, or whose place is another folder now, is not the project's: nothing is read or written there. */
function checkStands(root: string, place: Place): void {
  if (existsSync(root) && !isInside(realRoot(place), realPath(root)))
    throw new ProblemError({ code: 'outside-places', path: root, why: `it does not stand in the place ${place.name} any more` });
}
