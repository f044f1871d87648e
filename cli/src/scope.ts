import { findScope, type Scope, resolve } from '@rootmap/engine';
import type { Call } from './command.js';

/** The scope of the first path named, with `--root` where it is given. */
export const scopeOf = (call: Call, path = call.paths[0]!): Scope => {
  const root = call.flags['root'];
  return findScope(path, { places: call.places, ...(typeof root === 'string' ? { root: resolve(call.cwd, root) } : {}) });
};

export const heads = (scope: Scope) => ({ root: scope.root, projectFile: scope.projectFile });

export const who = (): string => process.env['USER'] ?? process.env['USERNAME'] ?? 'command line';
