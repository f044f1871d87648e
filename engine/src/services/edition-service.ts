import { createHash } from 'node:crypto';
import { statSync } from 'node:fs';
import { lastNameOf, ProblemError, withoutSecrets, type Edition, type OnProgress } from '@rootmap/core';
import type { AppliedView, EditionLook, FetchDone, FetchRequest, JobView, NewerDataset, NewerRequest } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { rmSync } from '../disk/files.js';
import { ARCHIVE_ENDING } from '../archive/archive.js';
import { unpackWhole } from '../intake/unpack.js';
import { fetchFile, type FetchOrder } from '../online/fetch-file.js';
import { pastedAddress, signInOf } from '../online/find-service.js';
import { lookForEdition } from '../online/look-for-edition.js';
import type { ServiceDesk } from '../online/service-desk.js';
import { stageEdition } from '../online/stage-edition.js';
import type { RecordedAddress } from '../online/recorded-addresses.js';
import { placeNameOf } from '../project/scope.js';
import type { Wire } from '../wire/wire.js';
import type { Ports } from './ports.js';
import type { SourceService } from './source-service.js';

/** So many servers are asked at the same time for newer editions. */
const AT_ONCE = 6;

/** Data by its address: fetched, looked for again, and taken over when it is a newer edition. */
export class EditionService {
  /** Addresses that are fetched now: two would write into one file. */
  private readonly running = new Set<string>();

  constructor(
    private readonly ports: Pick<Ports, 'pool' | 'projects' | 'places' | 'changes' | 'jobs' | 'known'>,
    private readonly desk: ServiceDesk,
    private readonly sources: Pick<SourceService, 'arrive' | 'arrived' | 'forget'>,
    private readonly folder: string,
  ) {}

  /** Fetches a file; it ends as an arrival, like one that was dropped. */
  async startFetch(key: string, { address, signIn: given }: FetchRequest): Promise<JobView> {
    const whole = pastedAddress(address);
    const signIn = given ?? signInOf(whole) ?? (await this.desk.signInFor(whole));
    const plain = withoutSecrets(whole);
    if (given) await this.desk.signIn(plain, given);
    const wire = await this.wireOf(key);
    const release = this.hold(plain);
    return this.ports.jobs.start('fetch', `Fetch ${shown(plain)}`, key, async ({ signal, progress }): Promise<FetchDone> => {
      try {
        return await this.fetched(wire, { address: plain, folder: this.folderOf(plain), signIn, signal }, progress);
      } finally {
        release();
      }
    });
  }

  /** The way to other servers for a project: the settings of its place say which may be asked. */
  private async wireOf(key: string): Promise<Wire> {
    const { root } = await this.ports.projects.base(key);
    return this.desk.wireFrom(placeNameOf(root, this.ports.places.opened()));
  }

  private folderOf(address: string): string {
    return join(this.folder, createHash('sha256').update(address).digest('hex').slice(0, 32));
  }

  /** One fetch of an address at a time. */
  private hold(address: string): () => void {
    if (this.running.has(address))
      throw new ProblemError({ code: 'wrong-use', message: `${shown(address)} is being fetched already. Wait for it, or stop it.` });
    this.running.add(address);
    return () => this.running.delete(address);
  }

  /** What stands at an address that is written down, unpacked into a folder that is gone once the work is done. */
  async withFetched<T>(
    key: string,
    address: string,
    { signal, progress }: { readonly signal: AbortSignal; readonly progress: OnProgress },
    work: (folder: string, edition: Edition) => Promise<T>,
  ): Promise<T> {
    const release = this.hold(address);
    const folder = this.folderOf(address);
    try {
      const order = { address, folder, signIn: await this.desk.signInFor(address), signal };
      const { path, edition } = await fetchFile(await this.wireOf(key), order, progress);
      const isArchive = ARCHIVE_ENDING.test(path);
      const unpacked = isArchive ? join(folder, 'unpacked') : folder;
      if (isArchive) await unpackWhole(path, unpacked);
      const done = await work(unpacked, edition);
      this.desk.forget(folder); // only once nothing went wrong: what came is not fetched twice
      return done;
    } finally {
      release();
    }
  }

  private async fetched(wire: Wire, order: FetchOrder, progress: OnProgress): Promise<FetchDone> {
    const { path, name, resumedAt, edition } = await fetchFile(wire, order, progress);
    const arrival = this.sources.arrive(path, { address: order.address, fetched: new Date().toISOString().slice(0, 10), edition });
    rmSync(order.folder);
    return { arrival, name, bytes: edition.bytes, sha256: edition.sha256, resumedAt };
  }

  private async recorded(key: string): Promise<readonly RecordedAddress[]> {
    return this.ports.pool.run('recorded-addresses', { ...(await this.ports.projects.base(key)), roots: await this.ports.known.roots() });
  }

  /** Asks the servers of addresses that are written down whether there is a newer edition; nothing is fetched. */
  async look(key: string, addresses: readonly string[]): Promise<EditionLook[]> {
    const wanted = new Map<string, RecordedAddress>();
    for (const r of await this.recorded(key)) if (addresses.length === 0 || addresses.includes(r.address)) wanted.set(partOf(r), r);
    const wire = await this.wireOf(key);
    const left = [...wanted.values()];
    const looks: EditionLook[] = [];
    const work = async (): Promise<void> => {
      for (let next = left.shift(); next; next = left.shift())
        looks.push(await lookForEdition(wire, next.address, next.origin.edition ?? null, await this.desk.signInFor(next.address)));
    };
    await Promise.all(Array.from({ length: AT_ONCE }, work));
    const order = [...wanted.values()].map((r) => r.address);
    return looks.sort((a, b) => order.indexOf(a.address) - order.indexOf(b.address));
  }

  private async plan(key: string, { arrival, address }: NewerRequest, who: string) {
    const base = await this.ports.projects.base(key, who);
    const { file, fetched } = this.sources.arrived(arrival);
    const wanted = (await this.recorded(key)).filter((r) => r.address === address);
    if (wanted.length === 0) throw new ProblemError({ code: 'not-found', what: 'dataset from that address', id: address });
    const origin = { fetched: fetched?.fetched ?? new Date().toISOString().slice(0, 10), edition: fetched?.edition };
    const isFolder = statSync(file).isDirectory();
    const task = { ...base, file, isFolder, unpacked: join(this.folder, `unpacked-${arrival}`), wanted, origin };
    return { base, plan: await this.ports.pool.run('plan-take-edition', task), unpacked: task.unpacked };
  }

  /** What was fetched against what is here, dataset by dataset. */
  async compare(key: string, request: NewerRequest): Promise<readonly NewerDataset[]> {
    const { plan, unpacked } = await this.plan(key, request, 'web');
    rmSync(unpacked);
    return plan.datasets;
  }

  /** The new edition takes the place of the old one, under its names: one change with one undo. */
  async takeOver(key: string, request: NewerRequest, who: string): Promise<AppliedView> {
    const { base, plan, unpacked } = await this.plan(key, request, who);
    try {
      if (!plan.change)
        throw new ProblemError({ code: 'wrong-use', message: 'What was fetched is what is here already. There is nothing to take over.' });
      const applied = await this.ports.changes.apply(key, base, plan.change, plan.datasets.length, {
        ...this.ports.changes.run,
        stageAll: stageEdition(plan.copies),
      });
      this.sources.forget(request.arrival);
      return applied;
    } finally {
      rmSync(unpacked);
    }
  }
}

/** One address may have been copied in several parts. */
const partOf = ({ address, origin }: RecordedAddress): string => `${address} ${origin.edition?.degrees?.join(',') ?? ''}`;

const shown = (address: string): string => {
  const { host } = new URL(address);
  return `${lastNameOf(address) || host} of ${host}`;
};
