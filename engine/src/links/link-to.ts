import { absoluteAddress, ProblemError, relativize, toFileUri, type ProjectLink } from '@rootmap/core';
import { isInside } from '../disk/native-path.js';
import { locationOf, type RootedScope } from '../project/scope.js';

/** A folder as a project file links it: by a relative path where one place holds both, and by its address. */
export function linkTo(scope: Pick<RootedScope, 'root' | 'places'>, name: string, folder: string, note: string): ProjectLink {
  const root = scope.root;
  if (isInside(root, folder))
    throw new ProblemError({ code: 'wrong-use', message: `${folder} is inside the project already. Only folders outside it are linked.` });
  const [from, to] = [locationOf(root, scope.places), locationOf(folder, scope.places)];
  return {
    name,
    path: from.place === to.place ? decodeURI(relativize(from.segments, to.segments, null)) : null,
    address: toFileUri(absoluteAddress(to, scope.places)),
    note,
  };
}
