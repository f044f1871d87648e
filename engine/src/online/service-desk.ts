import {
  explain,
  pictureType,
  ProblemError,
  serviceAddress,
  tileAddress,
  wmsPictureAddress,
  type Asked,
  type PictureRequest,
  type ServiceTree,
  type TileAt,
} from '@rootmap/core';
import type { ServiceFeatures } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { rmSync } from '../disk/files.js';
import type { ServiceRow } from '../store/remembered.js';
import { freshForMs, retryAfterMs } from '../wire/retry-after.js';
import { SecretBox } from '../wire/secret-box.js';
import { noService } from '../wire/wire-problem.js';
import { Wire, type AskOptions, type SignIn } from '../wire/wire.js';
import {
  findService,
  movedTemplate,
  pastedAddress,
  searchRecords,
  signInOf,
  treeOf,
  type FoundRecords,
  type FoundService,
} from './find-service.js';
import { HostsOfPlaces, type AllowedHost, type HostMemory } from './hosts-of-places.js';
import { KeptAnswers } from './kept-answers.js';
import { jsonOf, JSON_ACCEPT } from './read-json.js';

export interface ServiceMemory extends HostMemory {
  all(): Promise<ServiceRow[]>;
  note(url: string, row: Partial<Omit<ServiceRow, 'url'>>): Promise<void>;
}

export interface DeskOptions {
  readonly dataFolder: string;
  /** Hosts of one's own network that are allowed by the configuration. */
  readonly hosts: readonly AllowedHost[];
}

interface TreeRead {
  readonly tree: ServiceTree;
  readonly readMs: number;
}

/** A tree is read again by itself after this long. */
const TREE_FRESH_MS = 10 * 60 * 1000;
const PICTURE_FRESH_MS = 60 * 60 * 1000;
/** An answer is noted again at most this often. */
const NOTE_MS = 60_000;
const FIRST_WAIT_MS = 2000;
const MOST_WAIT_MS = 60_000;
/** Pictures are asked for with less patience than what a person waits for on purpose. */
const PICTURE_LIMIT_MS = 4500;
const MOST_PICTURE_BYTES = 8 * 1024 * 1024;
/** Features drawn of one piece of a map; a map that shows more says so. */
const MOST_DRAWN = 2000;

/** Troubles that are of the server as a whole, and pass: it is left alone for a while. */
const PASSING = ['slow', 'refused', 'unknown-host', 'certificate', 'error', 'broke-off', 'moved'];
/** Troubles that are of the one piece asked for: a tile that is not there says nothing of its server. */
const OF_A_PIECE = ['gone', 'broken', 'too-large'];

/** About a second in all (nodejs.org, fs.rmSync). */
const HELD_TRIES = 4;

/** All that is asked of linked services, and what is remembered of it. */
export class ServiceDesk {
  /** Told when a service answers otherwise than before. */
  onNews: () => void = () => undefined;
  readonly kept: KeptAnswers;
  private readonly box: SecretBox;
  private readonly known = new Map<string, ServiceRow>();
  private readonly waiting = new Map<string, { failures: number; untilMs: number }>();
  private readonly underway = new Map<string, Promise<Buffer>>();
  private readonly reading = new Map<string, Promise<TreeRead>>();
  private readonly wire = new Wire(() => new Set());

  private constructor(
    private readonly memory: ServiceMemory,
    readonly hosts: HostsOfPlaces,
    options: DeskOptions,
  ) {
    this.kept = new KeptAnswers(join(options.dataFolder, 'cache', 'services'));
    this.box = new SecretBox(options.dataFolder);
  }

  static async open(memory: ServiceMemory, options: DeskOptions): Promise<ServiceDesk> {
    const desk = new ServiceDesk(memory, await HostsOfPlaces.open(memory, options.hosts), options);
    for (const row of await memory.all()) desk.known.set(row.url, row);
    return desk;
  }

  /** The way to other servers for projects in a place: its settings say which hosts of one's own network may be asked. */
  wireFrom(place: string): Wire {
    return this.wire.for(() => this.hosts.for(place));
  }

  /** What was gathered is in its place now: it need not be kept. @param folder below the data folder */
  forget(folder: string): void {
    rmSync(folder, { maxRetries: HELD_TRIES }); // on Windows what was closed a moment ago may still be in the way
  }

  close(): Promise<void> {
    return this.wire.close();
  }

  // Who asks

  async signIn(url: string, signIn: SignIn | null): Promise<void> {
    const service = serviceAddress(url);
    const sealed = signIn && (await this.box.seal(JSON.stringify(signIn)));
    await this.remember(service, { signIn: sealed, signInKind: signIn?.kind ?? null });
    this.waiting.delete(service);
    this.kept.clear(); // what one person was shown is not what the next one may see
  }
  signInKind(url: string): 'password' | 'key' | null {
    return (this.known.get(serviceAddress(url))?.signInKind ?? null) as 'password' | 'key' | null;
  }
  async signInFor(url: string): Promise<SignIn | null> {
    const sealed = this.known.get(serviceAddress(url))?.signIn ?? null;
    const opened = sealed === null ? null : await this.box.open(sealed);
    return opened === null ? null : (JSON.parse(opened) as SignIn);
  }

  // What came of asking

  /** What is known of every service that was asked, by its address. */
  asked(): ReadonlyMap<string, Asked> {
    const all = new Map<string, Asked>();
    for (const row of this.known.values())
      if (row.askedMs !== null)
        all.set(row.url, {
          atMs: row.askedMs,
          okMs: row.okMs,
          answered: row.answered === 1,
          why: row.why,
          offers: row.offers === null ? null : (JSON.parse(row.offers) as string[]),
        });
    return all;
  }

  private async remember(url: string, changes: Partial<Omit<ServiceRow, 'url'>>): Promise<void> {
    const before = this.known.get(url) ?? { url, ...NOTHING_KNOWN };
    const now = { ...before, ...changes };
    this.known.set(url, now);
    await this.memory.note(url, now);
  }

  private async succeeded(url: string, offers?: readonly string[] | null): Promise<void> {
    this.waiting.delete(url);
    const before = this.known.get(url);
    const now = Date.now();
    const isNews = before?.answered !== 1 || before.askedMs === null;
    if (offers === undefined && !isNews && now - (before.askedMs ?? 0) < NOTE_MS) return;
    await this.remember(url, {
      askedMs: now,
      okMs: now,
      answered: 1,
      why: null,
      ...(offers === undefined ? {} : { offers: offers === null ? null : JSON.stringify(offers) }),
    });
    if (isNews || offers !== undefined) this.onNews();
  }

  private async failed(url: string, error: unknown): Promise<void> {
    if (!(error instanceof ProblemError)) return;
    const { problem } = error;
    if (problem.code === 'no-service' && PASSING.includes(problem.trouble)) {
      const failures = (this.waiting.get(url)?.failures ?? 0) + 1;
      const { retryAfter, date } = error as { retryAfter?: string; date?: string };
      const told = retryAfterMs(retryAfter, date, Date.now());
      const wait = told ?? Math.min(MOST_WAIT_MS, FIRST_WAIT_MS * 2 ** (failures - 1));
      this.waiting.set(url, { failures, untilMs: Date.now() + wait });
    }
    const before = this.known.get(url);
    const why = whyOf(error);
    const isNews = before?.answered !== 0 || before.askedMs === null || before.why !== why;
    if (!isNews && Date.now() - (before.askedMs ?? 0) < NOTE_MS) return;
    await this.remember(url, { askedMs: Date.now(), answered: 0, why });
    if (isNews) this.onNews();
  }

  /** Throws at once while a server that failed is left alone. */
  private letAlone(url: string): void {
    const waits = this.waiting.get(url);
    if (!waits || waits.untilMs <= Date.now()) return;
    throw noService(new URL(url).host, 'waits', `in ${Math.ceil((waits.untilMs - Date.now()) / 1000)} s`);
  }

  /** @param offersOf only where the service itself was asked for what it offers, not for a piece of a map */
  private async noting<T>(url: string, work: () => Promise<T>, offersOf?: (value: T) => readonly string[] | null): Promise<T> {
    try {
      const value = await work();
      await this.succeeded(url, offersOf?.(value));
      return value;
    } catch (error) {
      const { problem } = error as Partial<ProblemError>;
      const isOfPiece = !offersOf && problem?.code === 'no-service' && OF_A_PIECE.includes(problem.trouble);
      if (!isOfPiece) await this.failed(url, error);
      throw error;
    }
  }

  // What is asked

  /** What stands at an address that a person pasted; a name, password or key in it is used, and kept apart. */
  async find(
    place: string,
    address: string,
    given: SignIn | null,
    signal?: AbortSignal,
  ): Promise<FoundService & { readonly signIn: SignIn | null }> {
    const wire = this.wireFrom(place);
    const whole = pastedAddress(address);
    const signIn = given ?? signInOf(whole) ?? (await this.signInFor(whole));
    const options = { signIn, ...(signal ? { signal } : {}) };
    const hasScheme = /^\s*<?[a-z]+:\/\//i.test(address);
    const found = await findService(wire, whole, options).catch((error: unknown) => {
      // Nobody said https: where it is not spoken, http is tried.
      if (hasScheme || !(error instanceof ProblemError) || error.problem.code !== 'no-service') throw error;
      if (!['certificate', 'refused', 'slow'].includes(error.problem.trouble)) throw error;
      return findService(wire, whole.replace(/^https:/, 'http:'), options);
    });
    return { ...found, signIn };
  }

  /** A service that was found is remembered as one that answers. */
  async learn(place: string, { url, tree }: FoundService): Promise<void> {
    this.keepTree(place, url, tree);
    await this.succeeded(serviceAddress(url), offersOf(tree));
  }

  /** Asks a service, and remembers what comes of it. Never throws for what the server does. */
  async ask(
    place: string,
    url: string,
    kind: ServiceTree['kind'],
    signal?: AbortSignal,
  ): Promise<{ readonly why: string | null; readonly movedTo: string | null }> {
    try {
      await this.tree(place, url, kind, true, signal);
      return { why: null, movedTo: null };
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      const { problem } = error;
      const to = problem.code === 'no-service' && problem.trouble === 'moved' ? (problem.detail ?? null) : null;
      return { why: explain(problem), movedTo: to === null ? null : kind === 'tiles' ? movedTemplate(url, to) : serviceAddress(to) };
    }
  }

  private keepTree(place: string, url: string, tree: ServiceTree): void {
    this.kept.keep(treeKey(place, url), Buffer.from(JSON.stringify({ tree, readMs: Date.now() }), 'utf8'), Date.now() + TREE_FRESH_MS);
  }

  /** What a service offers, as it was read last; null: it never was. Nothing is asked. */
  keptTree(place: string, url: string): { readonly tree: ServiceTree | null; readonly isOld: boolean } {
    const key = treeKey(place, url);
    const kept = this.kept.read(key, Date.now(), true);
    const isFresh = kept !== null && this.kept.read(key, Date.now()) !== null;
    return { tree: kept && (JSON.parse(kept.toString('utf8')) as TreeRead).tree, isOld: !isFresh };
  }

  /** What a service offers; as it was read last where that is not long ago, or where it does not answer now. */
  async tree(place: string, url: string, kind: ServiceTree['kind'], isAnew: boolean, signal?: AbortSignal): Promise<TreeRead> {
    const key = treeKey(place, url);
    const fresh = isAnew ? null : this.kept.read(key, Date.now());
    if (fresh) return JSON.parse(fresh.toString('utf8')) as TreeRead;
    const running = this.reading.get(key);
    if (running && !isAnew) return running;
    const work = this.readTree(place, url, kind, isAnew, signal).finally(() => this.reading.delete(key));
    if (!signal) this.reading.set(key, work); // what somebody may stop is not shared
    return work;
  }

  private async readTree(place: string, url: string, kind: ServiceTree['kind'], isAnew: boolean, signal?: AbortSignal): Promise<TreeRead> {
    const service = serviceAddress(url);
    try {
      if (!isAnew) this.letAlone(service);
      const options = { signIn: await this.signInFor(url), ...(signal ? { signal } : {}) };
      const tree = await this.noting(service, () => treeOf(this.wireFrom(place), kind, url, options), offersOf);
      this.keepTree(place, url, tree);
      return { tree, readMs: Date.now() };
    } catch (error) {
      const old = isAnew ? null : this.kept.read(treeKey(place, url), Date.now(), true);
      if (old) return JSON.parse(old.toString('utf8')) as TreeRead;
      throw error;
    }
  }

  /** Records that a server finds by words in its catalogues, also those that are not listed here. */
  async search(place: string, url: string, words: string, signal?: AbortSignal): Promise<FoundRecords> {
    const service = serviceAddress(url);
    this.letAlone(service);
    const options = { signIn: await this.signInFor(url), ...(signal ? { signal } : {}) };
    return this.noting(service, () => searchRecords(this.wireFrom(place), url, words, options));
  }

  /** Bytes of a picture that browsers draw. The same one asked for twice at a time is asked for once. */
  private picture(place: string, layer: string, address: string): Promise<Buffer> {
    const key = `${place} ${this.signInKind(layer) ?? ''} ${address}`;
    const kept = this.kept.read(key, Date.now());
    if (kept) return Promise.resolve(kept);
    const running = this.underway.get(key);
    if (running) return running;
    const work = this.askPicture(place, layer, address, key).finally(() => this.underway.delete(key));
    this.underway.set(key, work);
    return work;
  }

  private async askPicture(place: string, layer: string, address: string, key: string): Promise<Buffer> {
    const service = serviceAddress(layer);
    this.letAlone(service);
    const signIn = await this.signInFor(layer);
    return this.noting(service, async () => {
      const options: AskOptions = { signIn, accept: 'image/*', limitMs: PICTURE_LIMIT_MS, mostBytes: MOST_PICTURE_BYTES };
      const { body, headers, url } = await this.wireFrom(place).ask(address, options);
      if (pictureType(body) === null) throw noService(new URL(url).host, 'broken', saidInstead(body));
      const fresh = freshForMs(headers['cache-control'], headers['age'], PICTURE_FRESH_MS);
      if (fresh !== null && fresh > 0) this.kept.keep(key, body, Date.now() + fresh);
      return body;
    });
  }

  mapPicture(place: string, layer: string, request: PictureRequest): Promise<Buffer> {
    return this.picture(place, layer, wmsPictureAddress(layer, request));
  }

  /** Null: there is none at that place, as servers say by 404. */
  async tile(place: string, layer: string, at: TileAt): Promise<Buffer | null> {
    try {
      return await this.picture(place, layer, tileAddress(layer, at));
    } catch (error) {
      if (error instanceof ProblemError && error.problem.code === 'no-service' && error.problem.trouble === 'gone') return null;
      throw error;
    }
  }

  /** Features in a box in degrees, as GeoJSON text; `isPart`: there are more than are drawn. */
  async features(place: string, layer: string, box: readonly number[]): Promise<ServiceFeatures> {
    const service = serviceAddress(layer);
    this.letAlone(service);
    const url = new URL(layer);
    url.searchParams.set('limit', String(MOST_DRAWN));
    url.searchParams.set('bbox', box.join(','));
    const signIn = await this.signInFor(layer);
    return this.noting(service, async () => {
      const answer = await this.wireFrom(place).ask(url.href, { signIn, accept: JSON_ACCEPT, limitMs: PICTURE_LIMIT_MS });
      const document = jsonOf(answer) as { type: string; features?: unknown; links?: { rel?: unknown }[] };
      if (!Array.isArray(document.features)) throw noService(url.host, 'broken', 'no features');
      const isPart = document.links?.some((l) => l?.rel === 'next') === true || document.features.length >= MOST_DRAWN;
      return { document: { type: 'FeatureCollection', features: document.features as unknown[] }, isPart };
    });
  }
}

/** What is kept for projects in one place is not shown in another, which may not be allowed to ask for it. */
const treeKey = (place: string, url: string): string => `${place} tree ${url}`;

const NOTHING_KNOWN = { askedMs: null, okMs: null, answered: 0, why: null, offers: null, signIn: null, signInKind: null };

const offersOf = (tree: ServiceTree): string[] | null =>
  tree.kind === 'tiles' || tree.kind === 'records' || tree.more > 0 ? null : tree.items.flatMap((i) => (i.name === '' ? [] : [i.name]));

/** A clause of a problem: its sentence without what to do. */
function whyOf(error: ProblemError): string {
  const sentence = explain(error.problem);
  return sentence.slice(0, sentence.search(/\. |\.$/)) || sentence;
}

/** What a server says in the place of a picture, as text: a WMS tells its faults in XML (OGC 06-042, 6.11). */
function saidInstead(body: Buffer): string {
  const text = body.subarray(0, 4000).toString('utf8');
  const told = /<ServiceException[^>]*>\s*(?:<!\[CDATA\[)?([^<\]]{1,200})/.exec(text)?.[1]?.trim();
  return told ? `it says "${told}"` : 'no picture';
}
