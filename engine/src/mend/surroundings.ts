import { isBelow, roleOf, type MendSurroundings, type Role, type SeenMove, type Trail, joined } from '@rootmap/core';
import { linkLocations, locationOf, type Scope } from '../project/scope.js';

/** What is known of a project's folders, beside its data. */
export function surroundingsOf(scope: Scope, seen: readonly SeenMove[]): MendSurroundings {
  if (scope.root === null) return { seen, project: [], roleOf: () => null };
  const root = locationOf(scope.root, scope.places);
  const folders = scope.project?.folders ?? {};
  const role = ({ space, segments }: Trail): Role | null => {
    const at = { place: space, segments };
    return isBelow(root, at, scope.places) ? roleOf(joined(segments.slice(root.segments.length)), folders) : null;
  };
  return { seen, project: [root, ...linkLocations(scope).map((l) => l.location)], roleOf: role };
}
