import { locateHere, placeNamed, type Location, type Place, joined } from '@rootmap/core';
import { realPath } from '../disk/real-path.js';
import { join, toAddress } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import { isMissing } from '../disk/disk-problem.js';
import { pathOf } from '../places/places.js';
import { Names, spell } from '../survey/spell.js';

/** A folder as it is on disk, for all references into it. */
interface Folder {
  readonly location: Location;
  /** Names of what is in it; true: a symbolic link. */
  readonly names: ReadonlyMap<string, boolean>;
}

/** What a reference reaches on disk, where its spelling or a symbolic link makes that another path. */
export function actualLocations(places: readonly Place[]): (location: Location) => Location {
  const spelled = new Names();
  const known = new Map<string, Location>();
  const folders = new Map<string, Folder | null>();

  const find = (location: Location): Location => {
    const place = placeNamed(places, location.place);
    if (!place?.present) return location;
    const name = location.segments.at(-1);
    const folder = name === undefined ? null : folderOf(place, location);
    if (folder?.names.get(name!) === false) return { place: folder.location.place, segments: [...folder.location.segments, name!] };
    return realOf(place, location.segments) ?? location;
  };

  const folderOf = (place: Place, location: Location): Folder | null => {
    const segments = location.segments.slice(0, -1);
    const key = `${place.name}\n${joined(segments)}`;
    let folder = folders.get(key);
    if (folder === undefined) folders.set(key, (folder = openFolder(place, segments)));
    return folder;
  };

  const openFolder = (place: Place, segments: readonly string[]): Folder | null => {
    const location = realOf(place, segments);
    if (!location) return null;
    return orNull(() => {
      const entries = readdirSync(join(pathOf(placeNamed(places, location.place)!), ...location.segments), { withFileTypes: true });
      return { location, names: new Map(entries.map((e) => [e.name, e.isSymbolicLink()])) };
    });
  };

  const realOf = (place: Place, segments: readonly string[]): Location | null =>
    orNull(() => {
      const found = spell(pathOf(place), segments, spelled);
      return found.kind === 'found' ? locateHere(toAddress(realPath(join(pathOf(place), ...found.segments))), places) : null;
    });

  return (location) => {
    const key = `${location.place}\n${joined(location.segments)}`;
    const before = known.get(key);
    if (before) return before;
    const now = find(location);
    known.set(key, now);
    return now;
  };
}

/** Null where nothing is, or it may not be looked at. */
function orNull<T>(look: () => T | null): T | null {
  try {
    return look();
  } catch (error) {
    if (isMissing(error) || (error as { code?: string }).code === 'EACCES') return null;
    throw error;
  }
}
