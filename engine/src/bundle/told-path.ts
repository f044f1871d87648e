import { absoluteAddress, joined, locateHere, placeNamed, printAddress } from '@rootmap/core';
import { basename, below, toAddress } from '../disk/native-path.js';
import type { RootedScope } from '../project/scope.js';

/**
 * A real path as it may be told to others: from the root, by its drive name, or by the name of its place; never by the
 * folders of this machine, which may name a person.
 */
export function toldPath(path: string, { root, places }: RootedScope): string {
  const inside = below(root, path);
  if (inside !== null) return inside;
  const location = locateHere(toAddress(path), places);
  const place = location && placeNamed(places, location.place);
  if (!location || !place) return basename(path);
  return place.driveNames.length > 0 ? printAddress(absoluteAddress(location, places)) : `${place.name}: ${joined(location.segments)}`;
}
