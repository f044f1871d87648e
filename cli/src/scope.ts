import { statSync } from 'node:fs';
import { askedServices, dataFolder, findScope, nearestFolder, type Scope, resolve } from '@rootmap/engine';
import type { Call } from './command.js';

/** The scope of the first path named, with `--root` where it is given, and with what is known of services; none is asked. */
export const scopeOf = (call: Call, path = call.paths[0]!): Scope => {
  const root = call.flags['root'];
  const scope = findScope(path, { places: call.places, ...(typeof root === 'string' ? { root: resolve(call.cwd, root) } : {}) });
  const asked = askedServices(dataFolder());
  return asked.size > 0 ? { ...scope, asked } : scope;
};

/** The scope that something which may not be there yet would stand in. */
export const scopeAround = (call: Call, path: string): Scope => scopeOf(call, nearestFolder(path));

export const heads = (scope: Scope) => ({ root: scope.root, projectFile: scope.projectFile });

export const isFolder = (path: string): boolean => statSync(path, { throwIfNoEntry: false })?.isDirectory() ?? false;

export const who = (): string => process.env['USER'] ?? process.env['USERNAME'] ?? 'command line';
