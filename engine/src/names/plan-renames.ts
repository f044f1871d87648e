import { basename, join } from '../disk/native-path.js';
import { findMentions, wordsFor } from '../move/mentions.js';
import { planNames, type NamesOptions, type NamesPlan } from './check-project-names.js';
import type { RootedScope } from '../project/scope.js';

export interface RenamesPlan extends NamesPlan {
  /** Names that files mention which cannot be rewritten, with those files. */
  readonly mentioned: readonly { readonly path: string; readonly files: readonly string[] }[];
}

export interface RenamesOptions extends NamesOptions {
  /** Renames what other files mention, too; else it is left as it is. */
  readonly evenMentioned: boolean;
}

/** Renames by the rules, without the names that scripts, documents or other programs' files mention, unless the person says so. */
export async function planRenames(scope: RootedScope, roots: readonly string[], options: RenamesOptions): Promise<RenamesPlan> {
  const all = planNames(scope, roots, options);
  if (!all.plan) return { ...all, mentioned: [] };
  const mentions = await findMentions(all.plan.entries, [scope.root, ...roots]);
  const folders = new Set(all.plan.entries.flatMap((e) => (e.isFolder ? [e.from] : [])));
  const mentioned = all.renames.flatMap(({ from }) => {
    const words = wordsFor(basename(from), folders.has(join(scope.root, from))).map((w) => w.toLowerCase());
    const files = mentions.filter((m) => words.some((w) => m.words.has(w))).map((m) => m.path);
    return files.length ? [{ path: from, files }] : [];
  });
  if (options.evenMentioned || mentioned.length === 0) return { ...all, mentioned };
  const left = new Set(mentioned.map((m) => m.path));
  const only = all.renames.map((r) => r.from).filter((path) => !left.has(path));
  return { ...planNames(scope, roots, { ...options, only }), mentioned };
}
