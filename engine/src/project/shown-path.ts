import { absoluteAddress, printAddress } from '@rootmap/core';
import { isBelow, pathFrom } from '../disk/native-path.js';
import { locationOf, type Scope } from './scope.js';

/** A real path as people call it: from the root, or by its drive name. */
export function shownPath(path: string, scope: Scope): string {
  if (scope.root && isBelow(scope.root, path)) return pathFrom(scope.root, path);
  return printAddress(absoluteAddress(locationOf(path, scope.places), scope.places));
}
