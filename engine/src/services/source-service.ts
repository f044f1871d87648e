import { randomUUID } from 'node:crypto';
import { constants, statfsSync, statSync } from 'node:fs';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { isUnsafePath, ProblemError, unportableName, type FileEntry, type Origin, type ToldOrigin, partsOf } from '@rootmap/core';
import type {
  AppliedView,
  CopiesDone,
  CopiesPreview,
  CopiesRequest,
  CrsCandidate,
  IntakeDone,
  IntakeRequest,
  IntakeView,
  JobView,
  LinkAdvice,
  OriginRequest,
  PathRequest,
  PlannedRaster,
} from '@rootmap/core/contract';
import { basename, dirname, join } from '../disk/native-path.js';
import { copyFileSync, createReadStream, createWriteStream, mkdirSync, renameSync, rmSync, utimesSync } from '../disk/files.js';
import { ARCHIVE_ENDING } from '../archive/archive.js';
import type { RunOptions } from '../changes/run-change.js';
import type { CopiesPlan } from '../copies/plan-copies.js';
import type { RasterCopyPlan, RasterWish } from '../copies/raster-copy.js';
import { onDisk } from '../disk/disk-problem.js';
import { openSource, unpackInto } from '../intake/unpack.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { PictureService } from './picture-service.js';
import type { QualityService } from './quality-service.js';
import type { Ports } from './ports.js';

interface Arrival {
  readonly id: string;
  readonly name: string;
  /** The archive, or the folder that loose files were put into. */
  readonly file: string;
  readonly source: PathRequest | null;
  /** Fetched by its address; left out: it was not. */
  readonly fetched?: Pick<Origin, 'address' | 'fetched' | 'edition'>;
  /** Size and time of the archive when it was looked into; left out: it was not yet, or it is a folder. */
  readonly stamp?: string;
  /** What datasets in it tell of their origin, by main path; left out: it was not looked into yet. */
  readonly told?: Readonly<Record<string, ToldOrigin>>;
}

const toldBy = (groups: IntakeView['groups']): Record<string, ToldOrigin> =>
  Object.fromEntries(groups.flatMap((g) => (g.told ? [[g.path.replace(/#[^/]*$/, ''), g.told]] : [])));

const rasterWish = ({ resampling, pixel }: CopiesRequest): RasterWish => ({ resampling: resampling ?? null, pixel: pixel ?? null });
const plannedRaster = ({ grid: { width, height, pixel }, resampling, because, reduced }: RasterCopyPlan): PlannedRaster => ({
  width,
  height,
  pixel,
  resampling,
  because,
  reduced,
});

/** Tells whether an archive is still the one that was looked into; null: a folder, whose files are read one by one. */
function stampOf(file: string): string | null {
  const stat = statSync(file);
  return stat.isDirectory() ? null : `${stat.size} ${stat.mtimeMs}`;
}

const LOOSE = 'files';

/** Real paths of all that belongs to the dataset of a main file. */
function filesOfDataset(path: string): string[] {
  const [found] = datasetsOfFile(path);
  if (!found)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${basename(path)} is no archive, and no dataset that can be read. Choose another.`,
    });
  const { group } = found.dataset;
  return [group.main, ...group.companions, ...group.borrowed].map((f) => join(found.folder, f.path));
}

/** Records that are none are left as they are, and told. */
export function refuseDamaged([file]: readonly string[]): void {
  if (file !== undefined)
    throw new ProblemError({ code: 'wrong-shape', file, member: 'resources', expected: 'a list, as in a Frictionless Data Package' });
}

/** What people do with data that comes in: look inside, bring in, write down its origin, link what many projects share. */
export class SourceService {
  private readonly arrivals = new Map<string, Arrival>();

  constructor(
    private readonly ports: Pick<Ports, 'pool' | 'known' | 'projects' | 'places' | 'changes' | 'jobs' | 'onBug'>,
    private readonly pictures: Pick<PictureService, 'readAhead'>,
    private readonly quality: Pick<QualityService, 'startBelow'>,
    private readonly folder: string,
  ) {
    rmSync(folder); // what was dropped and never brought in does not outlive the server
  }

  /** One file that was dropped into the page: an archive stands alone, loose files of one drop stand together. */
  async upload(group: string, path: string, modifiedMs: number | null, content: Readable): Promise<{ id: string }> {
    if (isUnsafePath(path) || partsOf(path).some((p) => unportableName(p) !== null || p.startsWith('.')))
      throw new ProblemError({ code: 'bad-name', name: path, why: 'no system could hold it' });
    if (!/^[0-9a-f-]{36}$/.test(group)) throw new ProblemError({ code: 'wrong-use', message: 'A drop is known by a uuid.' });
    const isAlone = ARCHIVE_ENDING.test(path);
    const id = isAlone ? randomUUID() : group;
    const file = isAlone ? join(this.folder, id, basename(path)) : join(this.folder, id, LOOSE, path);
    mkdirSync(dirname(file), { recursive: true });
    await pipeline(content, createWriteStream(file));
    if (modifiedMs !== null) utimesSync(file, modifiedMs / 1000, modifiedMs / 1000);
    const name = isAlone ? basename(path) : 'dropped files';
    this.arrivals.set(id, { id, name, file: isAlone ? file : join(this.folder, id, LOOSE), source: null });
    return { id };
  }

  /** An archive or a folder that stands in a place; or a dataset, of which a copy comes in with its companions. */
  async choose(at: PathRequest): Promise<{ id: string }> {
    const file = this.ports.places.path(at);
    const id = randomUUID();
    const isWhole = ARCHIVE_ENDING.test(file) || statSync(file).isDirectory();
    if (isWhole) this.arrivals.set(id, { id, name: basename(file), file, source: at });
    else {
      const folder = join(this.folder, id, LOOSE);
      mkdirSync(folder, { recursive: true });
      for (const from of filesOfDataset(file)) await pipeline(createReadStream(from), createWriteStream(join(folder, basename(from))));
      this.arrivals.set(id, { id, name: basename(file), file: folder, source: null });
    }
    return { id };
  }

  /** A file that was fetched stands here like one that was dropped, and knows where it is from. */
  arrive(path: string, fetched: Pick<Origin, 'address' | 'fetched' | 'edition'>): string {
    const name = basename(path);
    const isAlone = ARCHIVE_ENDING.test(name);
    const id = randomUUID();
    const file = isAlone ? join(this.folder, id, name) : join(this.folder, id, LOOSE, name);
    mkdirSync(dirname(file), { recursive: true });
    renameSync(path, file);
    this.arrivals.set(id, { id, name, file: isAlone ? file : join(this.folder, id, LOOSE), source: null, fetched });
    return id;
  }

  /** Where what arrived stands, and what is known of its fetching. */
  arrived(id: string): Pick<Arrival, 'file' | 'fetched'> {
    return this.arrival(id);
  }

  private arrival(id: string): Arrival {
    const arrival = this.arrivals.get(id);
    if (!arrival) throw new ProblemError({ code: 'not-found', what: 'arrival', id });
    return arrival;
  }

  async look(key: string, id: string): Promise<IntakeView> {
    const { name, file, source, fetched } = this.arrival(id);
    const base = await this.ports.projects.base(key);
    const stamp = stampOf(file);
    const inside = await this.ports.pool.run('inside', { ...base, file });
    this.arrivals.set(id, { ...this.arrival(id), told: toldBy(inside.groups), ...(stamp !== null && { stamp }) });
    const elsewhere = await this.ports.pool.run('companions', { ...base, file, groups: inside.groups });
    const reference = await this.ports.pool.run('reference', base);
    const disk = statfsSync(base.root);
    const isLoose = source === null && statSync(file).isDirectory();
    return {
      id,
      name,
      source,
      isLoose,
      ...inside,
      proposed: { ...inside.proposed, ...fetched },
      reference,
      freeBytes: disk.bavail * disk.bsize,
      elsewhere,
    };
  }

  /** A companion that stands elsewhere comes along with loose files that lack it. */
  pair(id: string, at: PathRequest): void {
    const { file, source } = this.arrival(id);
    if (source !== null || !statSync(file).isDirectory())
      throw new ProblemError({ code: 'wrong-use', message: 'Only loose files that were dropped can be paired. Bring this one in first.' });
    const from = this.ports.places.path(at);
    onDisk(from, () => copyFileSync(from, join(file, basename(from)), constants.COPYFILE_EXCL));
  }

  /** What was dropped and is not wanted after all; an archive in a place stays. */
  forget(id: string): void {
    const known = this.arrival(id); // what is removed is what was noted; what a request names is only looked up
    this.arrivals.delete(known.id);
    rmSync(join(this.folder, known.id));
  }

  private async planIntake(base: TaskBase, entries: readonly FileEntry[], id: string, request: IntakeRequest, target: string) {
    const { name, file, source, told, fetched } = this.arrival(id);
    const order = {
      source: file,
      name,
      entries,
      wanted: request.wanted,
      target,
      // What the server told of the file is noted as it was told, whatever was typed beside it.
      origin: fetched?.edition ? { ...request.origin, edition: fetched.edition } : request.origin,
      told: told ?? toldBy((await this.ports.pool.run('inside', { ...base, file })).groups),
      removeArchive: request.removeArchive && source !== null,
    };
    return this.ports.pool.run('plan-intake', { ...base, roots: await this.ports.known.roots(), order, safeNames: request.safeNames });
  }

  async startIntake(key: string, id: string, request: IntakeRequest, who: string): Promise<JobView> {
    const base = await this.ports.projects.base(key, who);
    const { name, file, source, stamp } = this.arrival(id);
    const target = this.ports.places.path(request.into, true);
    // What was shown of an archive that grew since is not what would come in.
    if (stamp !== undefined && stamp !== stampOf(file)) throw new ProblemError({ code: 'changed-meanwhile', path: name });
    const archive = await openSource(file, statSync(file).isDirectory());
    // What cannot be done is said at once, not by a job that fails.
    const plan = await this.planIntake(base, archive.entries, id, request, target).catch((error: unknown) => {
      archive.close();
      throw error;
    });
    return this.ports.jobs.start('intake', `Bring in ${name}`, key, async ({ signal, progress }): Promise<IntakeDone> => {
      try {
        let bytes = 0;
        const onBytes = (more: number, item: string): void => progress({ done: (bytes += more), of: plan.bytes, unit: 'bytes', item });
        await this.ports.changes.apply(key, base, plan.change, plan.files.length, {
          ...this.ports.changes.run,
          signal,
          stageAll: unpackInto(plan, archive, onBytes, signal),
        });
        this.pictures.readAhead(base, target).catch((error: unknown) => this.ports.onBug(error));
        if (source === null) this.forget(id); // only what is in need not be kept; after a failure it can be tried again
        const check = request.checks ? this.quality.startBelow(key, base, target) : null;
        return { folder: target, files: plan.files.length, bytes: plan.bytes, checkJob: check && check.id };
      } finally {
        archive.close();
      }
    });
  }

  /** A `SourcesView` as JSON. */
  async view(key: string, signal: AbortSignal): Promise<Uint8Array> {
    return this.ports.pool.run('sources', { ...(await this.ports.projects.base(key)), roots: await this.ports.known.roots() }, { signal });
  }

  async writeOrigin(key: string, request: OriginRequest, who: string): Promise<AppliedView> {
    const base = await this.ports.projects.base(key, who);
    const { change, damaged } = await this.ports.pool.run('plan-origin', { ...base, ids: request.datasets, origin: request.origin });
    refuseDamaged(damaged);
    return this.ports.changes.apply(key, base, change, request.datasets.length);
  }

  private planCopies(base: TaskBase, request: CopiesRequest): Promise<CopiesPlan> {
    const { datasets, crs, into } = request;
    const wish = { ids: datasets, crs, into: this.ports.places.path(into, true), ...rasterWish(request) };
    return this.ports.pool.run('plan-copies', { ...base, wish });
  }

  async copiesPreview(key: string, request: CopiesRequest): Promise<CopiesPreview> {
    const { copies, left } = await this.planCopies(await this.ports.projects.base(key), request);
    return {
      copies: copies.map(({ target, table: _, raster, ...copy }) => ({
        ...copy,
        name: basename(target),
        raster: raster && plannedRaster(raster),
      })),
      left,
    };
  }

  /** Writes the copies as one change; each record is counted. */
  async startCopies(key: string, request: CopiesRequest, who: string): Promise<JobView> {
    const base = await this.ports.projects.base(key, who);
    const plan = await this.planCopies(base, request);
    const { change, copies } = plan;
    if (!change)
      throw new ProblemError({ code: 'wrong-use', message: `Nothing is left to copy: ${plan.left[0]?.why ?? 'nothing is chosen'}.` });
    return this.ports.jobs.start('copies', change.title, key, async ({ signal, progress }): Promise<CopiesDone> => {
      const done: CopiesDone['copies'][number][] = [];
      const of = copies.reduce((sum, c) => sum + c.records, 0);
      let before = 0;
      const stageAll: RunOptions['stageAll'] = async (installs) => {
        for (const { id, target, table, records } of copies) {
          const path = installs.find((i) => i.target === target)!.staged;
          const written = await this.ports.pool.run(
            'write-copy',
            { ...base, id, crs: request.crs, path, table, wish: rasterWish(request) },
            { signal, progress: (now) => progress({ ...now, done: before + now.done, of }) },
          );
          before += records;
          done.push({
            name: basename(target),
            unit: written.unit,
            read: written.read,
            written: written.written,
            skipped: written.skipped,
            losses: written.losses,
          });
        }
      };
      await this.ports.changes.apply(key, base, change, copies.length, { ...this.ports.changes.run, signal, stageAll });
      return { copies: done };
    });
  }

  async rankCrs(key: string, id: string): Promise<readonly CrsCandidate[]> {
    return this.ports.pool.run('rank-crs', { ...(await this.ports.projects.base(key)), id });
  }

  async adviseLink(key: string, at: PathRequest): Promise<LinkAdvice> {
    return this.ports.pool.run('advise-link', { ...(await this.ports.projects.base(key)), folder: this.ports.places.path(at) });
  }
}
