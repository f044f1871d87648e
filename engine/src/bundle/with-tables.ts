import { statSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { rmSync, utimesSync } from '../disk/files.js';
import { newScratch } from '../disk/scratch.js';
import type { BundleFile } from './bundle-file.js';
import type { Gathering } from './gather.js';
import type { PackPlan } from './pack-plan.js';
import { Team } from './team.js';

interface Made {
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number;
}

async function gather(team: Team, gathering: Gathering, to: string): Promise<Made> {
  const { bytes } = await team.run('gather', { gathering, to });
  utimesSync(to, gathering.modifiedMs / 1000, gathering.modifiedMs / 1000);
  return { path: to, bytes, modifiedMs: statSync(to).mtimeMs };
}

/**
 * Copies of geodatabases without the tables that stay out, and the one that is made of outside tables, stand in for them while
 * the work runs, and are gone after it.
 */
export async function withTables<T>(plan: PackPlan, work: (ready: PackPlan) => Promise<T>, signal?: AbortSignal): Promise<T> {
  const { gathered } = plan;
  if (plan.tablesOut.size === 0 && !gathered) return work(plan);
  const folder = newScratch('tables');
  const team = new Team();
  try {
    const copies = new Map<string, Made>();
    for (const [i, [from, without]] of [...plan.tablesOut].entries()) {
      signal?.throwIfAborted();
      const path = join(folder, `${i}.gpkg`);
      const { bytes } = await team.run('tables', { from, without, to: path });
      const { modifiedMs, sourceBytes } = plan.payload.find((f) => f.source === from)!;
      const now = statSync(from);
      if (now.size !== sourceBytes || now.mtimeMs !== modifiedMs) throw new ProblemError({ code: 'changed-meanwhile', path: from });
      utimesSync(path, modifiedMs / 1000, modifiedMs / 1000);
      copies.set(from, { path, bytes, modifiedMs: statSync(path).mtimeMs }); // as fine as the disk keeps it
    }
    const made = gathered ? await gather(team, gathered, join(folder, 'gathered.gpkg')) : null;
    const payload = plan.payload
      .filter((f) => f.source === null || ![...copies.keys()].some((c) => f.source === `${c}-wal` || f.source === `${c}-journal`))
      .map((f): BundleFile => {
        const copy = f.source === null ? (f.to === gathered?.path ? made : undefined) : copies.get(f.source);
        return copy ? { ...f, source: copy.path, bytes: copy.bytes, sourceBytes: copy.bytes, modifiedMs: copy.modifiedMs } : f;
      });
    return await work({ ...plan, payload, bytes: payload.reduce((sum, f) => sum + f.bytes, 0) });
  } finally {
    await team.close();
    rmSync(folder);
  }
}
