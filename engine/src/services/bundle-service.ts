import { existsSync } from 'node:fs';
import { DELIVERY_PLANS, joined, ProblemError, SEND_ALL, type Place } from '@rootmap/core';
import type {
  BundleRequest,
  BundleView,
  EditionRequest,
  EditionView,
  JobView,
  PackPreview,
  PackRequest,
  ReceiveRequest,
  SendMemory,
  SendRequest,
  TakeOverRequest,
} from '@rootmap/core/contract';
import { basename } from '../disk/native-path.js';
import { copyToPlace, pack } from '../bundle/pack.js';
import { findScope, locationOf } from '../project/scope.js';
import { takeOverEdition } from '../bundle/edition.js';
import { editionReceived, editionSent } from '../bundle/look-into.js';
import { checkTarget, receive } from '../bundle/receive.js';
import type { DraftRepository } from '../repositories/draft-repository.js';
import { projectKey } from '../project/project-key.js';
import type { SentRepository } from '../repositories/sent-repository.js';
import type { KnownEditions } from '../store/known-editions.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { PackTask } from '../tasks/bundle-tasks.js';
import type { Ports } from './ports.js';

/** A path as its place has it. */
function placePath(path: string, places: readonly Place[]): string {
  const { place, segments } = locationOf(path, places);
  return `${place}: ${joined(segments)}`;
}

type Leans = Pick<Ports, 'pool' | 'known' | 'projects' | 'places' | 'changes' | 'jobs' | 'publish'> & {
  readonly drafts: Pick<DraftRepository, 'unsaved'>;
  readonly sent: SentRepository;
  readonly editions: KnownEditions;
};

/** Projects packed for others, and bundles of others received. */
export class BundleService {
  /** @param pagesFolder where pictures of maps are kept that the page drew */
  constructor(
    private readonly ports: Leans,
    private readonly pagesFolder: string,
  ) {}

  async preview(key: string, send: SendRequest, who: string, signal: AbortSignal): Promise<PackPreview> {
    const base = await this.ports.projects.base(key, who);
    return (await this.ports.pool.run('plan-pack', await this.task(base, send, null), { signal })).preview;
  }

  async memory(key: string): Promise<SendMemory> {
    const { root } = await this.ports.projects.base(key);
    const { project } = findScope(root, { places: this.ports.places.opened(), root, withoutMaps: true });
    return { send: await this.ports.sent.of(root), method: project?.method ?? '', plans: DELIVERY_PLANS };
  }

  private async task(base: TaskBase, send: SendRequest, out: string | null): Promise<PackTask> {
    const { added, ...choices } = send;
    return {
      ...base,
      choices: { ...SEND_ALL, ...choices },
      out,
      added: added.map((at) => this.ports.places.path(at)),
      unsaved: await this.ports.drafts.unsaved(base.root),
      pagesFolder: this.pagesFolder,
    };
  }

  async startPack(key: string, request: PackRequest, who: string): Promise<JobView<'pack'>> {
    const { out, asFolder, send } = request;
    const base = await this.ports.projects.base(key, who);
    const file = this.ports.places.path(out, true);
    if (existsSync(file)) throw new ProblemError({ code: 'exists', path: file });
    const task = await this.task(base, send, file);
    await this.ports.sent.keep(base.root, send);
    return this.ports.jobs.start('pack', `${asFolder ? 'Copy to' : 'Bundle'} ${basename(file)}`, key, async ({ signal, progress }) => {
      const { plan } = await this.ports.pool.run('plan-pack', task, { signal });
      const { manifest, ...result } = await (asFolder ? copyToPlace : pack)(plan, file, who, this.ports.changes.run, progress, signal);
      if (send.arrange === null) await this.ports.editions.keep(base.root, basename(file), await editionSent(plan, manifest));
      this.ports.publish({ type: 'journal' });
      return { ...result, out };
    });
  }

  async look({ bundle }: BundleRequest, who: string, signal: AbortSignal): Promise<BundleView> {
    const path = this.ports.places.path(bundle);
    const { projectId, ...look } = await this.ports.pool.run(
      'look-bundle',
      { places: this.ports.places.all(), root: path, who, bundle: path },
      { signal },
    );
    const rows = projectId === null ? [] : (await this.ports.known.rows()).filter((row) => row.id === projectId && existsSync(row.root));
    const places = this.ports.places.opened();
    return { ...look, here: rows.map((row) => ({ key: projectKey(row.root), title: row.title, root: placePath(row.root, places) })) };
  }

  async compare({ bundle, key }: EditionRequest, who: string, signal: AbortSignal): Promise<EditionView> {
    const base = await this.ports.projects.base(key, who);
    const before = await this.ports.editions.of(base.root);
    const task = { ...base, bundle: this.ports.places.path(bundle), before: before?.before ?? null };
    const compared = await this.ports.pool.run('compare-edition', task, { signal });
    return { ...compared, before: before && { ms: before.ms, bundle: before.bundle } };
  }

  async startTakeOver(request: TakeOverRequest, who: string): Promise<JobView<'receive'>> {
    const file = this.ports.places.path(request.bundle);
    const base = await this.ports.projects.base(request.key, who);
    const before = await this.ports.editions.of(base.root);
    return this.ports.jobs.start('receive', `Take over ${basename(file)}`, request.key, async ({ signal, progress }) => {
      const { onConflict, removes } = request;
      const task = { ...base, bundle: file, before: before?.before ?? null, order: { onConflict, removes } };
      const plan = await this.ports.pool.run('plan-take-over', task, { signal, progress });
      const taken = await takeOverEdition(base.root, file, plan, who, this.ports.changes.run, progress, signal);
      if (taken.findings.length === 0) {
        const here = await this.ports.pool.run('manifest-here', base);
        await this.ports.editions.keep(base.root, basename(file), { here, bundle: plan.incoming });
      }
      this.ports.projects.changed(request.key);
      this.ports.publish({ type: 'journal' });
      const look = await this.ports.pool.run('arrival', base);
      const findings = [...taken.findings, ...look.findings];
      return { ...look, root: base.root, files: taken.put, bytes: taken.bytes, key: request.key, findings };
    });
  }

  startReceive({ bundle, into, setAside }: ReceiveRequest, who: string): JobView<'receive'> {
    const file = this.ports.places.path(bundle);
    const target = this.ports.places.path(into, true);
    checkTarget(target);
    return this.ports.jobs.start('receive', `Receive ${basename(file)}`, null, async ({ signal, progress }) => {
      const look = (root: string) => this.ports.pool.run('arrival', { places: this.ports.places.all(), root, who });
      const { manifest, ...result } = await receive(
        file,
        target,
        who,
        this.ports.places.opened(),
        this.ports.changes.run,
        progress,
        signal,
        {
          look,
          setAside,
        },
      );
      const key = result.files === 0 ? null : await this.ports.projects.open(into);
      if (key !== null && result.findings.length === 0) {
        await this.ports.editions.keep(result.root, basename(file), editionReceived(manifest));
      }
      this.ports.publish({ type: 'journal' });
      return { ...result, key };
    });
  }
}
