import { parseJsonTree } from '../json/json-tree.js';
import { patchText } from '../json/patch-text.js';
import { setMember } from '../json/set-member.js';
import { done, fail, type Result } from '../problem.js';
import type { ProjectQuality } from './project-quality.js';

/** Members of a project file that the app sets. */
export interface ProjectMembers {
  readonly id?: string;
  readonly title?: string;
  readonly summary?: string;
  readonly crs?: string | null;
  readonly method?: string;
  readonly status?: 'open' | 'finished';
  readonly folders?: Readonly<Record<string, string>>;
  readonly links?: readonly unknown[];
  readonly services?: readonly unknown[];
  readonly naming?: unknown;
  readonly quality?: ProjectQuality;
  readonly storedForm?: 'relative' | 'absolute';
  readonly workingGeodatabase?: string | null;
}

/** Sets members of a project file; all else stays byte for byte. */
export function patchProject(file: string, text: string, members: ProjectMembers): Result<string> {
  let now = text;
  for (const [key, value] of Object.entries(members) as [string, unknown][]) {
    const tree = parseJsonTree(file, now);
    if (!tree.ok) return tree;
    if (tree.value.kind !== 'object') return fail({ code: 'wrong-shape', file, member: 'text', expected: 'an object' });
    now = patchText(now, setMember(now, tree.value, key, value));
  }
  return done(now);
}
