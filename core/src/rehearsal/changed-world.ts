import { absoluteAddress, placeNamed, type Location, type Place } from '../address/place.js';
import { printAddress } from '../address/address.js';
import { isBelow, type Found, type Surroundings } from '../map/judge-layer.js';

/** What is to happen to a project. Nothing of it is done. */
export interface Scenario {
  /** The places as they are then: other drive names, some taken away, new ones. */
  readonly places: readonly Place[];
  /** Where the root is now, and where it stands then. */
  readonly from: Location;
  readonly to: Location;
  /** The root stays where it is, too. */
  readonly isCopy: boolean;
  /** The disk tells upper and lower case apart, and how letters are composed. */
  readonly isStrict: boolean;
  /** Longest path that can be opened there, in characters; null: any. */
  readonly longest: number | null;
  /** Where linked folders are then. */
  readonly links: readonly Location[];
  /** Nothing of what stands on this machine is there but the root: it is opened on another one. */
  readonly isElsewhere: boolean;
}

const follow = (from: Location, to: Location, inner: Location): Location => ({
  place: to.place,
  segments: [...to.segments, ...inner.segments.slice(from.segments.length)],
});

/** Where something is after the root has gone: below the new root, or where it was. */
const afterMove = ({ from, to }: Pick<Scenario, 'from' | 'to'>, location: Location, places: readonly Place[]): Location =>
  isBelow(from, location, places) ? follow(from, to, location) : location;

/**
 * Where that stands today which stands at a location then; null: nothing does. What is below the new root is what is below
 * the old one today; what was below the old root is gone unless it was copied.
 */
export function standsToday(location: Location, s: Scenario, now: readonly Place[]): Location | null {
  if (isBelow(s.to, location, s.places)) return follow(s.to, s.from, location);
  if (s.isElsewhere || !placeNamed(now, location.place)) return null;
  return !s.isCopy && isBelow(s.from, location, now) ? null : location;
}

/** The world as it will be, for the same function that judges layers now. */
export function changedWorld(now: Surroundings, s: Scenario): Surroundings {
  return {
    places: s.places,
    root: s.to,
    links: s.links,
    look: (location, table) => {
      const today = standsToday(location, s, now.places);
      if (today === null) return { kind: 'nothing' };
      const found = now.look(today, table);
      if (!isBelow(s.to, location, s.places)) return strict(found, location, s);
      const tooLong = s.longest === null ? null : longer(location, s);
      if (tooLong !== null && found.kind !== 'nothing') return tooLong;
      return moved(strict(found, location, s), s, now.places);
    },
  };
}

function longer(location: Location, { longest, places }: Scenario): Found | null {
  const text = printAddress(absoluteAddress(location, places));
  return text.length > longest! ? { kind: 'too-long', characters: text.length, longest: longest! } : null;
}

function strict(found: Found, location: Location, { isStrict }: Scenario): Found {
  if (!isStrict || found.kind !== 'dataset' || !found.spelled) return found;
  const isSame = found.spelled.every((name, i) => name === location.segments[i]);
  return isSame ? found : { kind: 'nothing' };
}

/** Where links lead moves along when it is inside the root. */
function moved(found: Found, s: Scenario, places: readonly Place[]): Found {
  if (found.kind !== 'dataset') return found;
  const { realLocation } = found;
  const spelled = found.spelled && [...s.to.segments, ...found.spelled.slice(s.from.segments.length)];
  return { ...found, spelled, realLocation: realLocation && afterMove(s, realLocation, places) };
}
