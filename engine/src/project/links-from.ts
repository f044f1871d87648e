import { absoluteAddress, relativize, toFileUri, type ProjectLink } from '@rootmap/core';
import { linkLocations, locationOf, type Scope } from './scope.js';

/** The links of a project as another root has to write them, so that they lead to the same folders. */
export function linksFrom(scope: Scope, root: string): ProjectLink[] {
  const located = linkLocations(scope);
  const from = locationOf(root, scope.places);
  return (scope.project?.links ?? []).map((link) => {
    const location = located.find((l) => l.name === link.name)?.location;
    if (!location) return { ...link, path: null }; // it cannot be told where its path led
    const isNear = link.path !== null && location.place === from.place;
    return {
      ...link,
      path: isNear ? decodeURI(relativize(from.segments, location.segments, null)) : null,
      address: link.address ?? toFileUri(absoluteAddress(location, scope.places)),
    };
  });
}
