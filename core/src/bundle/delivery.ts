import { isUnsafePath } from '../address/unsafe-path.js';
import { joined, partsOf } from '../address/parts.js';
import type { Role } from '../project/roles.js';
import type { FolderPlan, PlanFolder } from '../project/folder-plan.js';

/**
 * Plans by which a bundle is arranged, kept and shared as folder plans are. A role that none of the folders has goes to the
 * folder of the role that stands in for it.
 */
export const DELIVERY_PLANS: readonly FolderPlan[] = [
  {
    id: 'delivery',
    title: 'Delivery, numbered',
    summary: 'Maps, data, report and origins in four folders that keep their order on every system.',
    folders: [
      { path: '1_maps', role: 'maps', note: 'Map files, to be opened first' },
      { path: '2_data', role: 'results', note: 'What was made, and what the maps use' },
      { path: '3_report', role: 'documents', note: 'Report, notes, sheets of maps' },
      { path: '4_origins', role: 'originals', note: 'Data as it came, with where it came from' },
    ],
  },
];

const INSTEAD: Readonly<Record<Role, readonly Role[]>> = {
  maps: ['documents', 'other'],
  results: ['working', 'geodatabases', 'other'],
  working: ['results', 'geodatabases', 'other'],
  geodatabases: ['results', 'working', 'other'],
  documents: ['exports', 'other', 'results'],
  exports: ['documents', 'results', 'other'],
  originals: ['other', 'results', 'working'],
  other: ['results', 'working', 'documents', 'originals'],
};

/** The folder of a plan that takes what has a role; the first one where none does. */
export function folderOfRole(role: Role, plan: Pick<FolderPlan, 'folders'>): PlanFolder | null {
  for (const wanted of [role, ...INSTEAD[role]]) {
    const found = plan.folders.find((f) => f.role === wanted);
    if (found) return found;
  }
  return plan.folders[0] ?? null;
}

/** A folder of the bundle as it is, and where a person put it: a folder of the plan. */
export interface Placing {
  readonly from: string;
  readonly to: string;
}

/** One thing that must stay in one folder: a dataset with its companions, or a file. */
export interface ToArrange {
  /** Paths from the payload's top; the first names the folder. */
  readonly paths: readonly string[];
  readonly role: Role;
}

/**
 * Where each path goes. The top folder says what the plan's folder says now, so it is left out; what stood deeper keeps its
 * folders. Where two things would meet, the later one keeps its top folder too.
 */
export function arrangeBundle(
  things: readonly ToArrange[],
  plan: Pick<FolderPlan, 'folders'>,
  placings: readonly Placing[] = [],
): Map<string, string> {
  const placed = new Map<string, string>();
  const taken = new Set<string>();
  const byDepth = [...placings].sort((a, b) => b.from.length - a.from.length);
  for (const { paths, role } of things) {
    const first = paths[0]!;
    const asked = byDepth.find((p) => first === p.from || first.startsWith(`${p.from}/`));
    const folder = asked?.to ?? folderOfRole(role, plan)?.path ?? '';
    const target = (path: string, kept: number): string =>
      joined([...(folder === '' ? [] : partsOf(folder)), ...partsOf(path).slice(kept)]);
    const most = partsOf(first).length - 1;
    const choices = [Math.min(1, most), 0].map((kept) => paths.map((path) => [path, target(path, kept)] as const));
    const free = choices.find((c) => c.every(([, to]) => !taken.has(to.toLowerCase()))) ?? numbered(choices[1]!, taken);
    for (const [path, to] of free) {
      placed.set(path, to);
      taken.add(to.toLowerCase());
    }
  }
  return placed;
}

function numbered(targets: readonly (readonly [string, string])[], taken: ReadonlySet<string>): (readonly [string, string])[] {
  for (let n = 2; ; n++) {
    const next = targets.map(([path, to]) => {
      const parts = partsOf(to);
      return [path, joined([...parts.slice(0, -1), String(n), parts.at(-1)!])] as const;
    });
    if (next.every(([, to]) => !taken.has(to.toLowerCase()))) return next;
  }
}

/** Why a plan cannot arrange a bundle; null: it can. */
export function deliveryFault(plan: Pick<FolderPlan, 'folders'>): string | null {
  const fixed = plan.folders.filter((f) => !f.path.includes('<'));
  if (fixed.length === 0) return 'it has no folder';
  const unsafe = fixed.find((f) => isUnsafePath(f.path));
  return unsafe ? `${unsafe.path} leads out of the bundle` : null;
}
