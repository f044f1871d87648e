import { createHash } from 'node:crypto';
import { joined, layerNamesOf, ProblemError, resourceName, serviceAddress } from '@rootmap/core';
import type { CopyAnewRequest, ImportItem, JobView, PathRequest, ServiceCopyDone, ServiceCopyRequest } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { rmSync } from '../disk/files.js';
import type { CopyOrder } from '../online/copy-features.js';
import { noteOriginOf } from '../online/origin-of-copy.js';
import type { ServiceDesk } from '../online/service-desk.js';
import { locationOf, placeNameOf } from '../project/scope.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { GeodatabaseService } from './geodatabase-service.js';
import type { JobHandle } from './jobs.js';
import type { OnlineService } from './online-service.js';
import type { Ports } from './ports.js';

/** What is copied, and the table that it becomes. */
interface Wanted extends Pick<ServiceCopyRequest, 'layer' | 'degrees' | 'into' | 'crs'> {
  readonly item: Omit<ImportItem, 'dataset'>;
  /** Id of the table whose place it takes, and how many layers draw it; null: none. */
  readonly old: { readonly id: string; readonly usedBy: number } | null;
  readonly takes: boolean;
}

/** Collections of servers, kept as tables of geodatabases: copied, and copied anew when they have changed. */
export class CollectionService {
  /** Folders that something is gathered in now: two would write into one file. */
  private readonly copying = new Set<string>();

  /** @param folder where what is copied is gathered, so that it goes on after a stop */
  constructor(
    private readonly ports: Pick<Ports, 'pool' | 'projects' | 'jobs' | 'known' | 'places'>,
    private readonly desk: ServiceDesk,
    private readonly online: Pick<OnlineService, 'itemOf'>,
    private readonly geodatabases: Pick<GeodatabaseService, 'bringFile'>,
    private readonly folder: string,
  ) {}

  /** Copies the records of a collection into a geodatabase, as one change, with where they came from. */
  async startCopy(key: string, request: ServiceCopyRequest, who: string): Promise<JobView> {
    const base = await this.ports.projects.base(key, who);
    return this.start(key, base, { ...request, item: { part: null, table: request.table }, old: null, takes: true });
  }

  /** Copies a collection once more: compared with the table that it was copied to, or in its place, as one change. */
  async startCopyAnew(key: string, { dataset, takes }: CopyAnewRequest, who: string): Promise<JobView> {
    const base = await this.ports.projects.base(key, who);
    const { path, table, address, degrees, crs, usedBy } = await this.ports.pool.run('copied-collection', {
      ...base,
      roots: await this.ports.known.roots(),
      dataset,
    });
    const at = locationOf(path, this.ports.places.opened());
    const into: PathRequest = { place: at.place, path: joined(at.segments) };
    const item = { part: null, table, replaces: true };
    return this.start(key, base, { layer: address, degrees, into, crs, item, old: { id: dataset, usedBy }, takes });
  }

  private async start(key: string, base: TaskBase, wanted: Wanted): Promise<JobView> {
    const { layer, degrees } = wanted;
    const told = await this.online.itemOf(key, layer);
    const [name] = layerNamesOf(layer);
    if (name === undefined || !/\/collections\//.test(layer))
      throw new ProblemError({
        code: 'wrong-use',
        message: 'Only a collection of records can be copied. A picture is drawn anew each time.',
      });
    const hash = createHash('sha256')
      .update(JSON.stringify([layer, degrees]))
      .digest('hex')
      .slice(0, 32);
    const folder = join(this.folder, hash);
    const order: CopyOrder = {
      layer,
      service: serviceAddress(layer),
      degrees,
      folder,
      name: resourceName(name),
      signIn: await this.desk.signInFor(layer),
    };
    if (this.copying.has(folder))
      throw new ProblemError({ code: 'wrong-use', message: 'It is being copied already. Wait for it, or stop it.' });
    this.copying.add(folder);
    const title = `Copy ${told.item?.title ?? name} of ${told.title}`;
    return this.ports.jobs.start('service-copy', title, key, async (handle): Promise<ServiceCopyDone> => {
      try {
        return await this.copied(key, base, order, wanted, told, handle);
      } finally {
        this.copying.delete(folder);
      }
    });
  }

  private async copied(
    key: string,
    base: TaskBase,
    order: CopyOrder,
    { item, into, crs, old, takes }: Wanted,
    of: Awaited<ReturnType<OnlineService['itemOf']>>,
    handle: JobHandle,
  ): Promise<ServiceCopyDone> {
    const hosts = [...this.desk.hosts.for(placeNameOf(base.root, this.ports.places.opened()))];
    const copied = await this.ports.pool.run('copy-features', { order, hosts }, handle);
    noteOriginOf(copied, order, { item: of.item, service: of.title, publisher: of.publisher });
    const { told, came, resumedAt, file } = copied;
    const newer = old && (await this.ports.pool.run('compare-copy', { ...base, ...old, file }));
    if (!takes) return { told, came, resumedAt, import: null, newer }; // what came is kept for a moment, in case it is taken
    const request = { into, items: [{ ...item, dataset: file }], crs, makesValid: false };
    const done = await this.geodatabases.bringFile(key, base, request, file, handle);
    rmSync(order.folder); // only what is in need not be kept; what broke off before goes on from here
    return { told, came, resumedAt, import: done, newer };
  }
}
