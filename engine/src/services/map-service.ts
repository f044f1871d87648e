import { existsSync } from 'node:fs';
import { isMapFile, isUnsafePath, pictureType, ProblemError, type StoredForm } from '@rootmap/core';
import type {
  AppliedView,
  CrsAdvice,
  DigitisedView,
  DigitiseRequest,
  EditableRequest,
  EditableView,
  JobView,
  KeepDraftRequest,
  KeptView,
  MapCrsView,
  MapDocView,
  MapFromTableRequest,
  MapFromTableView,
  MapPageRequest,
  NewLayerView,
  OutsideView,
  PathRequest,
  RehearsalRequest,
  RehearsalView,
  SavedView,
  SaveMapRequest,
} from '@rootmap/core/contract';
import { trimFiles } from '../disk/cache-folder.js';
import { join } from '../disk/native-path.js';
import { mkdirSync, readFileSync, renameSync, writeFileSync } from '../disk/files.js';
import type { RunOptions } from '../changes/run-change.js';
import { checkPagePath, planPage } from '../printing/plan-page.js';
import { pageOf, type PageNote } from '../bundle/map-pages.js';
import { hashOfBytes } from '../maps/view-map-doc.js';
import type { DraftRepository } from '../repositories/draft-repository.js';
import type { Pool } from '../pool/pool.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { Ports } from './ports.js';

/** A page of A2 at 300 dots an inch has about half of it. */
const LARGEST_PRINT = 128 << 20;
const LARGEST_PAGE = 32 << 20;
/** Bytes of pictures of maps that are kept: of states that are gone, too, since undo brings them back. */
const MOST_PICTURES = 256 << 20;

async function wholeOf(content: AsyncIterable<Uint8Array>, file: string, limitBytes: number): Promise<Buffer> {
  const pieces: Uint8Array[] = [];
  let bytes = 0;
  for await (const piece of content) {
    bytes += piece.length;
    if (bytes > limitBytes) throw new ProblemError({ code: 'too-large', file, bytes, limitBytes });
    pieces.push(piece);
  }
  return Buffer.concat(pieces);
}

/** What people do with maps: look, edit, keep, save. */
export class MapService {
  constructor(
    private readonly ports: Pick<Ports, 'pool' | 'known' | 'projects' | 'places' | 'changes' | 'jobs'>,
    private readonly drafts: DraftRepository,
    /** Small pictures of maps, by the hash of their files. */
    private readonly pictures: string,
    /** What comes by and by. */
    private readonly background: Pool,
  ) {}

  async doc(key: string, path: string, editor: string): Promise<MapDocView> {
    const base = await this.ports.projects.base(key);
    checkMapPath(path);
    const view = await this.ports.pool.run('map-doc', { ...base, path });
    const [kept, others] = await Promise.all([this.drafts.kept(base.root, path, editor), this.drafts.others(base.root, path, editor)]);
    return { ...view, kept, others };
  }

  /** The draft is kept, and the editor told of others and of a file that is another one by now. */
  async keep(key: string, { path, editor, base, draft }: KeepDraftRequest, who: string): Promise<KeptView> {
    const { root } = await this.ports.projects.base(key);
    checkMapPath(path);
    await this.drafts.keep(root, path, editor, who, base, draft);
    const file = join(root, path);
    return { others: await this.drafts.others(root, path, editor), base: existsSync(file) ? hashOfBytes(readFileSync(file)) : null };
  }

  async drop(key: string, path: string, editor: string): Promise<void> {
    await this.drafts.drop((await this.ports.projects.base(key)).root, path, editor);
  }

  /** Saves a draft to its file: reads what is not known of its data, then writes it as one change. */
  async save(key: string, request: SaveMapRequest, who: string): Promise<JobView> {
    const base: TaskBase = await this.ports.projects.base(key, who);
    const { path, editor, draft, thumbnail, as } = request;
    checkMapPath(path);
    await this.ports.pool.run('refuse-save', { ...base, path, base: request.base, as });
    return this.ports.jobs.start('save', `Save ${draft.title || path}`, key, async ({ signal, progress }): Promise<SavedView> => {
      const plan = await this.ports.pool.run('save-map', { ...base, path, base: request.base, draft, as }, { signal, progress });
      if (thumbnail !== null) this.keepPicture(plan.base, Buffer.from(thumbnail, 'base64'));
      const applied = await this.ports.changes.apply(key, base, plan.change, 1);
      await this.drafts.drop(base.root, path, editor);
      return { path: plan.path, base: plan.base, changeId: applied.change?.id ?? null, remembered: plan.remembered };
    });
  }

  private keepPicture(hash: string, png: Uint8Array): void {
    mkdirSync(this.pictures, { recursive: true });
    const path = join(this.pictures, `${hash}.png`);
    writeFileSync(`${path}.part`, png);
    renameSync(`${path}.part`, path);
    trimFiles(this.pictures, MOST_PICTURES);
  }

  /** A page that was drawn of a map as it stands on the disk; it goes into bundles in place of the servers that the map draws on. */
  async keepPage(key: string, { path, base, without }: MapPageRequest, content: AsyncIterable<Uint8Array>): Promise<void> {
    const { root } = await this.ports.projects.base(key);
    checkMapPath(path);
    const png = await wholeOf(content, path, LARGEST_PAGE);
    if (pictureType(png) !== 'image/png') throw new ProblemError({ code: 'wrong-use', message: 'A page of a map comes as a PNG picture.' });
    const hash = hashOfBytes(readFileSync(join(root, path)));
    if (hash !== base) throw new ProblemError({ code: 'changed-meanwhile', path: join(root, path) });
    mkdirSync(this.pictures, { recursive: true });
    const page = pageOf(this.pictures, hash);
    const note: PageNote = { ms: Date.now(), without };
    for (const [file, bytes] of [
      [page.png, png],
      [page.note, Buffer.from(JSON.stringify(note))],
    ] as const) {
      writeFileSync(`${file}.part`, bytes);
      renameSync(`${file}.part`, file);
    }
    trimFiles(this.pictures, MOST_PICTURES);
  }

  private isReady = false;
  /** Whoever sees small pictures of maps opens one next: the table of CRSs, which that needs, is read before. */
  private getReady(): void {
    if (this.isReady) return;
    this.isReady = true;
    this.ports.pool.run('warm-up', { what: 'maps' }).catch(() => (this.isReady = false)); // the map itself tells what is wrong
  }

  /** A small picture of a map: as it was when it was saved last, or drawn now, from what is there; null: nothing says where it is. */
  async picture(key: string, path: string, signal: AbortSignal): Promise<{ type: string; bytes: Uint8Array } | null> {
    this.getReady();
    const base = await this.ports.projects.base(key);
    checkMapPath(path);
    const file = join(base.root, path);
    if (!existsSync(file)) return null;
    const kept = join(this.pictures, `${hashOfBytes(readFileSync(file))}.png`);
    if (existsSync(kept)) return { type: 'image/png', bytes: readFileSync(kept) };
    const drawn = await this.background.run('map-picture', { ...base, path }, { signal });
    return drawn === null ? null : { type: 'image/svg+xml', bytes: Buffer.from(drawn) };
  }

  /** Name, unit, area and definition of a CRS; null: it is not known here. */
  async crs(code: string): Promise<MapCrsView | null> {
    return this.ports.pool.run('map-crs', { code });
  }

  /** A picture that the style of a layer names. Throws `not-found`. */
  async stylePicture(key: string, path: string, layer: string, href: string): Promise<{ type: string; bytes: Uint8Array }> {
    checkMapPath(path);
    return this.ports.pool.run('style-picture', { ...(await this.ports.projects.base(key)), path, layer, href });
  }

  async newLayers(key: string, path: string, ids: readonly string[]): Promise<readonly NewLayerView[]> {
    checkMapPath(path);
    return this.ports.pool.run('new-layers', {
      ...(await this.ports.projects.base(key)),
      roots: await this.ports.known.roots(),
      path,
      ids,
    });
  }

  /** What a move would do to the layers; nothing is moved. */
  async rehearse(key: string, { map, to, ...order }: RehearsalRequest): Promise<RehearsalView> {
    const target = to === null || typeof to === 'string' ? to : this.ports.places.path(to, true);
    return this.ports.pool.run('rehearse', { ...(await this.ports.projects.base(key)), map, order: { ...order, to: target } });
  }

  /** Data outside the project that somebody wants in a map. */
  async outside(key: string, at: PathRequest): Promise<OutsideView> {
    return this.ports.pool.run('outside', {
      ...(await this.ports.projects.base(key)),
      roots: await this.ports.known.roots(),
      path: this.ports.places.path(at),
    });
  }

  /** The records of a dataset, to be edited on the map. */
  async editable(key: string, request: EditableRequest): Promise<EditableView> {
    return this.ports.pool.run('editable', { ...(await this.ports.projects.base(key)), ...request });
  }

  /** Saves what was drawn as one change; all files of it appear together, or none. */
  async digitise(key: string, request: DigitiseRequest, who: string): Promise<DigitisedView> {
    const base = await this.ports.projects.base(key, who);
    const { change, order, dataset } = await this.ports.pool.run('plan-digitise', { ...base, request });
    let records = 0;
    const stageAll: RunOptions['stageAll'] = async (installs) => {
      const staged = Object.fromEntries(
        Object.entries(order.targets).map(([name, path]) => [name, installs.find((i) => i.target === path)!.staged]),
      );
      records = await this.ports.pool.run('stage-digitised', { ...base, order, staged });
    };
    const applied = await this.ports.changes.apply(key, base, change, 1, { ...this.ports.changes.run, stageAll });
    return { dataset, records, changeId: applied.change?.id ?? null };
  }

  /** A page that was made of a map is written where nothing stands. */
  async print(key: string, at: PathRequest, title: string, content: AsyncIterable<Uint8Array>, who: string): Promise<AppliedView> {
    const base = await this.ports.projects.base(key, who);
    const path = this.ports.places.path(at, true);
    checkPagePath(path, at.path);
    const bytes = await wholeOf(content, at.path, LARGEST_PRINT);
    return this.ports.changes.apply(key, base, planPage(path, bytes, { title, root: base.root, who }), 1);
  }

  async crsAdvice(key: string, ids: readonly string[]): Promise<CrsAdvice> {
    return this.ports.pool.run('crs-advice', { ...(await this.ports.projects.base(key)), ids });
  }

  /** A new map without layers: its CRS is proposed by what comes into it first. */
  async create(key: string, title: string, storedForm: StoredForm | null, who: string): Promise<{ map: string }> {
    const base = await this.ports.projects.base(key, who);
    const { change, map } = await this.ports.pool.run('new-map', { ...base, title, storedForm });
    await this.ports.changes.apply(key, base, change, 1);
    return { map };
  }

  async fromTable(key: string, { title, text, apply }: MapFromTableRequest, who: string): Promise<MapFromTableView> {
    const base = await this.ports.projects.base(key, who);
    const { change, rows, map } = await this.ports.pool.run('map-from-table', { ...base, title, text });
    if (apply) await this.ports.changes.apply(key, base, change, 1);
    return { rows, map };
  }
}

function checkMapPath(path: string): void {
  if (isUnsafePath(path) || !isMapFile(path)) throw new ProblemError({ code: 'not-found', what: 'map', id: path });
}
