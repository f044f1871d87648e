import { isUnsafePath } from '../address/unsafe-path.js';
import { items, member, parseJsonTree, textOf } from '../json/json-tree.js';
import { done, fail, type Result } from '../problem.js';
import { isRole, ROLES, type Role } from './roles.js';

export interface PlanFolder {
  /** From the root, `/` as separator. `<publisher>` and the like stand for a folder that is made when it is needed. */
  readonly path: string;
  readonly role: Role;
  readonly note: string;
}

/** A reusable tree of subfolders, each with a role. */
export interface FolderPlan {
  readonly id: string;
  readonly title: string;
  readonly summary: string;
  readonly folders: readonly PlanFolder[];
}

const PLAN_FORMAT = 'rootmap-folder-plan/1';

const folder = (path: string, role: Role, note: string): PlanFolder => ({ path, role, note });

export const BUILT_IN_PLANS: readonly FolderPlan[] = [
  {
    id: 'received-derived-delivered',
    title: 'Received, derived, delivered',
    summary: 'What came in, what was made of it, what went out. Fits most jobs.',
    folders: [
      folder('received', 'originals', 'Data as it came, never edited'),
      folder('derived', 'working', 'What is made on the way'),
      folder('delivered', 'results', 'What others get'),
      folder('geodatabases', 'geodatabases', 'Containers for the data of this project'),
      folder('maps', 'maps', 'Map files'),
      folder('documents', 'documents', 'Brief, notes, letters'),
      folder('exports', 'exports', 'Pictures and sheets of maps'),
    ],
  },
  {
    id: 'by-publisher',
    title: 'By publisher',
    summary: 'Source data kept by who publishes it, so that licence and notes stay beside it.',
    folders: [
      folder('sources', 'originals', 'One folder for each publisher'),
      folder('sources/<publisher>', 'originals', 'Made when data of that publisher is brought in'),
      folder('geodatabases', 'geodatabases', 'Containers for the data of this project'),
      folder('maps', 'maps', 'Map files'),
      folder('documents', 'documents', 'Brief, notes, letters'),
      folder('exports', 'exports', 'Results, pictures and sheets of maps'),
    ],
  },
  {
    id: 'by-use',
    title: 'By use',
    summary: 'Data sorted by what it is for on the map. Good for field work.',
    folders: [
      folder('base', 'originals', 'Coast, roads, limits: what lies under everything'),
      folder('survey', 'working', 'What the team measured'),
      folder('imagery', 'originals', 'Rasters from the air and from space'),
      folder('lookups', 'other', 'Tables that explain codes'),
      folder('maps', 'maps', 'Map files'),
      folder('notes', 'documents', 'Field notes, brief, letters'),
    ],
  },
  {
    id: 'numbered',
    title: 'Numbered for delivery',
    summary: 'Folders that keep their order on every system, ready to be handed over.',
    folders: [
      folder('01_brief', 'documents', 'What was asked for'),
      folder('02_received', 'originals', 'Data as it came, never edited'),
      folder('03_working', 'working', 'What is made on the way'),
      folder('04_geodatabases', 'geodatabases', 'Containers for the data of this project'),
      folder('05_maps', 'maps', 'Map files'),
      folder('06_results', 'results', 'What others get'),
      folder('07_exports', 'exports', 'Pictures and sheets of maps'),
    ],
  },
];

/** Folders that a plan makes now; those that wait for a name (`<publisher>`) are not. */
export const foldersToMake = (plan: Pick<FolderPlan, 'folders'>): PlanFolder[] => plan.folders.filter((f) => !f.path.includes('<'));

/** Why a path cannot be a folder of a plan; null: it can. */
export function planPathFault(path: string): string | null {
  if (path === '' || isUnsafePath(path)) return 'it leads out of the project';
  const parts = path.split('/');
  if (parts.some((p) => p.startsWith('.'))) return 'it begins with a dot';
  if (parts.some((p) => /[<>]/.test(p) && !/^<[a-z]+>$/.test(p))) return 'only a whole name can stand in < >';
  if (parts.some((p) => p !== p.trim())) return 'a name begins or ends with a space';
  return null;
}

/** Reads a plan from its file. Never throws. */
export function parseFolderPlan(file: string, text: string): Result<FolderPlan> {
  const tree = parseJsonTree(file, text);
  if (!tree.ok) return tree;
  const root = tree.value;
  if (textOf(member(root, 'format')) !== PLAN_FORMAT)
    return fail({ code: 'wrong-shape', file, member: 'format', expected: `"${PLAN_FORMAT}"` });
  const title = textOf(member(root, 'title'));
  if (!title) return fail({ code: 'wrong-shape', file, member: 'title', expected: 'the name of the plan' });
  const folders: PlanFolder[] = [];
  for (const item of items(member(root, 'folders'))) {
    const path = textOf(member(item, 'path')) ?? '';
    const role = textOf(member(item, 'role')) ?? 'other';
    const fault = planPathFault(path);
    if (fault) return fail({ code: 'wrong-shape', file, member: `folders: ${path}`, expected: `a folder inside the project (${fault})` });
    if (!isRole(role)) return fail({ code: 'wrong-shape', file, member: `folders: ${path}: role`, expected: `one of ${ROLES.join(', ')}` });
    folders.push({ path, role, note: textOf(member(item, 'note')) ?? '' });
  }
  const id = textOf(member(root, 'id')) ?? title;
  return done({ id, title, summary: textOf(member(root, 'summary')) ?? '', folders });
}

/** A plan as a file that can be shared. */
export const writeFolderPlan = (plan: FolderPlan): string =>
  `${JSON.stringify({ format: PLAN_FORMAT, id: plan.id, title: plan.title, summary: plan.summary, folders: plan.folders }, null, 2)}\n`;

/** Every folder that has to be made for a path, the top first: `a/b/c` → `a`, `a/b`, `a/b/c`. */
export function withParents(paths: readonly string[]): string[] {
  const all = new Set<string>();
  for (const path of paths) {
    const parts = path.split('/');
    for (let i = 1; i <= parts.length; i++) all.add(parts.slice(0, i).join('/'));
  }
  return [...all].sort();
}
