import { absoluteAddress, printAddress } from '@rootmap/core';
import { locationOf, type Scope } from './scope.js';

/** A real path as people call it: from the root, or by its drive name. */
export function shownPath(path: string, scope: Scope): string {
  if (scope.root && path.startsWith(`${scope.root}/`)) return path.slice(scope.root.length + 1);
  return printAddress(absoluteAddress(locationOf(path, scope.places), scope.places));
}
