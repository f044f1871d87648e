import { existsSync } from 'node:fs';
import { DELIVERY_PLANS, ProblemError, SEND_ALL } from '@rootmap/core';
import type { JobView, PackPreview, PackRequest, PathRequest, SendMemory, SendRequest } from '@rootmap/core/contract';
import { basename } from '../disk/native-path.js';
import { copyToPlace, pack } from '../bundle/pack.js';
import { findScope } from '../project/scope.js';
import { checkTarget, receive } from '../bundle/receive.js';
import type { DraftRepository } from '../repositories/draft-repository.js';
import type { SentRepository } from '../repositories/sent-repository.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { PackTask } from '../tasks/bundle-tasks.js';
import type { Ports } from './ports.js';

type Leans = Pick<Ports, 'pool' | 'projects' | 'places' | 'changes' | 'jobs' | 'publish'> & {
  readonly drafts: Pick<DraftRepository, 'unsaved'>;
  readonly sent: SentRepository;
};

/** Projects packed for others, and bundles of others received. */
export class BundleService {
  constructor(private readonly ports: Leans) {}

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
      const result = await (asFolder ? copyToPlace : pack)(plan, file, who, this.ports.changes.run, progress, signal);
      this.ports.publish({ type: 'journal' });
      return { ...result, out };
    });
  }

  startReceive(bundle: PathRequest, into: PathRequest, who: string): JobView<'receive'> {
    const file = this.ports.places.path(bundle);
    const target = this.ports.places.path(into, true);
    checkTarget(target);
    return this.ports.jobs.start('receive', `Receive ${basename(file)}`, null, async ({ signal, progress }) => {
      const look = (root: string) => this.ports.pool.run('arrival', { places: this.ports.places.all(), root, who });
      const result = await receive(file, target, who, this.ports.places.opened(), this.ports.changes.run, progress, signal, look);
      const key = result.findings.length ? null : await this.ports.projects.open(into);
      this.ports.publish({ type: 'journal' });
      return { ...result, key };
    });
  }
}
