import { existsSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import type { JobView, PackPreview, PathRequest } from '@rootmap/core/contract';
import { basename } from '../disk/native-path.js';
import { pack } from '../bundle/pack.js';
import { checkTarget, receive } from '../bundle/receive.js';
import type { Ports } from './ports.js';

/** Projects packed for others, and bundles of others received. */
export class BundleService {
  constructor(private readonly ports: Pick<Ports, 'pool' | 'projects' | 'places' | 'changes' | 'jobs' | 'publish'>) {}

  async preview(key: string, signal: AbortSignal): Promise<PackPreview> {
    return (await this.ports.pool.run('plan-pack', { ...(await this.ports.projects.base(key)), out: null }, { signal })).preview;
  }

  async startPack(key: string, out: PathRequest, who: string): Promise<JobView<'pack'>> {
    const base = await this.ports.projects.base(key, who);
    const file = this.ports.places.path(out, true);
    if (existsSync(file)) throw new ProblemError({ code: 'exists', path: file });
    return this.ports.jobs.start('pack', `Bundle ${basename(file)}`, key, async ({ signal, progress }) => {
      const { plan } = await this.ports.pool.run('plan-pack', { ...base, out: file }, { signal });
      const result = await pack(plan, file, who, this.ports.changes.run, progress, signal);
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
