import { isIndexLost, joined } from '@rootmap/core';
import type { EditRequest, PathRequest } from '@rootmap/core/contract';
import {
  locationOf,
  planBringTable,
  planRebuildIndex,
  runChange,
  type EditPlan,
  type FoundCompanion,
  type MendWork,
  type RunOptions,
  dirname,
  join,
  pathOf,
} from '@rootmap/engine';
import { who } from '../scope.js';

type Companion = Extract<EditRequest, { kind: 'rebuild-index' | 'bring-table' }>;

/**
 * `mend --companions`: lost indexes are made anew, and lost tables brought back where one alone fits. Gives how many.
 * @param tables what was found, by layer key
 */
export async function mendCompanions(
  work: MendWork,
  tables: ReadonlyMap<string, readonly FoundCompanion[]>,
  options: RunOptions,
): Promise<number> {
  const done = new Set<string>();
  for (const { broken, seen } of work.broken) {
    const { location, resolved } = seen.judgement;
    if (!location || resolved === null || done.has(resolved)) continue;
    const request = editFor(
      work,
      broken.key,
      { place: location.place, path: joined(location.segments) },
      isIndexLost(seen.judgement),
      tables,
    );
    if (!request) continue;
    done.add(resolved);
    const { change } = planFor(work, request);
    if (change) await runChange(change, options);
  }
  return done.size;
}

function editFor(
  { scope }: MendWork,
  key: string,
  dataset: PathRequest,
  isIndex: boolean,
  tables: ReadonlyMap<string, readonly FoundCompanion[]>,
): Companion | null {
  if (isIndex) return { kind: 'rebuild-index', dataset, isSpatial: false };
  const [only, ...others] = tables.get(key) ?? [];
  if (!only || others.length > 0) return null;
  const at = locationOf(only.path, scope.places);
  return { kind: 'bring-table', dataset, table: { place: at.place, path: joined(at.segments) } };
}

function planFor({ scope }: MendWork, request: Companion): EditPlan {
  const root = scope.root ?? dirname(scope.named);
  const resolve = ({ place, path }: PathRequest): string => join(pathOf(scope.places.find((p) => p.name === place)!), path);
  const options = { roots: [root], who: who(), isQuick: true, missed: [], resolve };
  return request.kind === 'rebuild-index'
    ? planRebuildIndex({ ...scope, root }, request, options)
    : planBringTable({ ...scope, root }, request, options);
}
