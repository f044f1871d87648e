import { ProblemError } from '@rootmap/core';
import type { ChangeView, JobView, PutBackDone, PutBackRequest, PutBackRow, StayedOutView } from '@rootmap/core/contract';
import { pathFrom } from '../disk/native-path.js';
import { stageEdition } from '../online/stage-edition.js';
import type { StayedOut } from '../folders/stayed-out.js';
import type { EditionService } from './edition-service.js';
import type { JobHandle } from './jobs.js';
import type { Ports } from './ports.js';

/** Data that stayed out of a bundle since its publisher offers it: fetched from there, held against its checksums, put in place. */
export class PutBackService {
  constructor(
    private readonly ports: Pick<Ports, 'pool' | 'projects' | 'changes' | 'jobs'>,
    private readonly editions: Pick<EditionService, 'withFetched'>,
  ) {}

  private async stayedOut(key: string): Promise<readonly StayedOut[]> {
    return this.ports.pool.run('stayed-out', await this.ports.projects.base(key));
  }

  async list(key: string): Promise<StayedOutView[]> {
    const { root } = await this.ports.projects.base(key);
    return (await this.stayedOut(key)).map(({ path, address, origin, files }) => ({
      path: pathFrom(root, path),
      address,
      title: origin.title,
      publisher: origin.publisher,
      isTold: files.length > 0,
    }));
  }

  /** Each address is fetched by itself and is a change of its own: one that fails keeps nothing from the others. */
  async start(key: string, { addresses, takesOther }: PutBackRequest, who: string): Promise<JobView> {
    const found = (await this.stayedOut(key)).filter((s) => addresses.length === 0 || addresses.includes(s.address));
    if (found.length === 0)
      throw new ProblemError({ code: 'wrong-use', message: 'Nothing that is written down with such an address is missing here.' });
    const byAddress = new Map<string, StayedOut[]>();
    for (const one of found) byAddress.set(one.address, [...(byAddress.get(one.address) ?? []), one]);
    return this.ports.jobs.start('put-back', 'Fetch what stayed out', key, async (job): Promise<PutBackDone> => {
      const rows: PutBackRow[] = [];
      const changes: ChangeView[] = [];
      for (const [address, wanted] of byAddress) {
        job.signal.throwIfAborted();
        try {
          const done = await this.putBack(key, address, wanted, takesOther, who, job);
          rows.push(...done.rows);
          if (done.change) changes.push(done.change);
        } catch (error) {
          if (!(error instanceof ProblemError) || job.signal.aborted) throw error;
          const { root } = await this.ports.projects.base(key);
          for (const { path } of wanted)
            rows.push({ path: pathFrom(root, path), address, state: 'failed', why: error.message, missing: [] });
        }
      }
      return { rows, changes };
    });
  }

  private async putBack(
    key: string,
    address: string,
    wanted: readonly StayedOut[],
    takesOther: boolean,
    who: string,
    job: JobHandle,
  ): Promise<{ rows: readonly PutBackRow[]; change: ChangeView | null }> {
    const base = await this.ports.projects.base(key, who);
    return this.editions.withFetched(key, address, job, async (folder, edition) => {
      const origin = { fetched: new Date().toISOString().slice(0, 10), edition };
      const plan = await this.ports.pool.run('plan-put-back', { ...base, folder, wanted, origin, takesOther });
      if (!plan.change) return { rows: plan.rows, change: null };
      const run = { ...this.ports.changes.run, stageAll: stageEdition(plan.copies) };
      const { change } = await this.ports.changes.apply(key, base, plan.change, wanted.length, run);
      return { rows: plan.rows, change };
    });
  }
}
