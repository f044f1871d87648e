import { address, type Address } from './address.js';
import { absoluteAddress, locate, locateHere, placeNamed, type Location, type Place } from './place.js';
import { climb, type Reference } from './reference.js';

/**
 * Where a reference of a map leads: a location in a place, an address that no place claims, or nowhere. The one place where
 * references are resolved.
 *
 * Relative references climb from the map's folder as RFC 3986 section 5.2.4 does, except that nothing stands above a root: what
 * climbs out of it leads nowhere instead of being cut short. `/x` that no place claims is meant on the drive on which the
 * map is called (RFC 8089 appendix E.2.1).
 */
export function resolveIn(
  map: Location,
  reference: Exclude<Reference, { kind: 'service' }>,
  places: readonly Place[],
): Location | Address | 'above-root' {
  if (reference.kind === 'absolute')
    return locate(reference.address, places) ?? onDriveOf(map, reference.address, places) ?? reference.address;
  const segments = climb(map.segments.slice(0, -1), reference.segments);
  if (segments) return { place: map.place, segments };
  // A place cut out of a larger one (`--place` inside `local`): the path may go on above it there.
  const place = placeNamed(places, map.place);
  if (!place) return 'above-root';
  const above = climb([...place.root.segments, ...map.segments.slice(0, -1)], reference.segments);
  const outer =
    above && places.find((p) => p !== place && p.root.root === place.root.root && p.root.segments.length < place.root.segments.length);
  if (!above || !outer || place.driveNames.length > 0) return 'above-root';
  return locateHere(address(place.root.flavour, place.root.root, above), places) ?? 'above-root';
}

function onDriveOf(map: Location, target: Address, places: readonly Place[]): Location | Address | null {
  const place = placeNamed(places, map.place);
  if (target.flavour !== 'posix' || !place || place.driveNames.length === 0) return null;
  const { flavour, root } = absoluteAddress(map, places);
  const onDrive = address(flavour, root, target.segments, target.isFolder);
  return locate(onDrive, places) ?? onDrive;
}
