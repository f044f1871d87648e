import { foldName, normalName, type Address, address } from './address.js';
import { parseAddress } from './parse-address.js';

/**
 * A storage area that may be used: a drive, a share, a stick.
 * `root` is its real folder on this machine; `driveNames` are what map files written elsewhere call it.
 */
export interface Place {
  readonly name: string;
  readonly root: Address;
  readonly driveNames: readonly Address[];
  /** What else leads to the root on this machine: the share behind a letter, the folder that a letter stands for. */
  readonly aliases?: readonly Address[];
  /** Where it stood on this machine before; files may still say so, nothing stands there. */
  readonly formerly?: readonly Address[];
  readonly present: boolean;
  readonly ignoresCase: boolean;
  readonly readOnly: boolean;
}

/** A path inside a place. All reference computing happens on these, never on the server's real paths. */
export interface Location {
  readonly place: string;
  readonly segments: readonly string[];
}

export const locationKey = (l: Location): string => `${l.place}\n${l.segments.map(normalName).join('/')}`;

/** `text` as a drive name: `D:`, `D:/gis`, `\\server\share`. */
export function parseDriveName(text: string): Address | null {
  const parsed = parseAddress(/^[A-Za-z]:$/.test(text) ? `${text}/` : text);
  return parsed.ok && parsed.value.flavour !== 'posix' ? parsed.value : null;
}

/** Segments of `inner` below `outer`, or null. */
function below(outer: Address, inner: Address, ignoresCase: boolean): readonly string[] | null {
  if (outer.flavour !== inner.flavour || foldName(outer.root) !== foldName(inner.root)) return null;
  if (inner.segments.length < outer.segments.length) return null;
  const key = ignoresCase || outer.flavour !== 'posix' ? foldName : normalName;
  for (let i = 0; i < outer.segments.length; i++) if (key(outer.segments[i]!) !== key(inner.segments[i]!)) return null;
  return inner.segments.slice(outer.segments.length);
}

/**
 * The place that an address in a file belongs to: by drive name or real root, the longest prefix wins, and between the two what
 * a person said of a place. Null: no place claims it.
 */
export const locate = (target: Address, places: readonly Place[]): Location | null =>
  longest(target, places, [(p) => p.driveNames, rootsOf, (p) => p.formerly ?? []]);

/** The place that a path of this machine is in. Null: none. */
export const locateHere = (target: Address, places: readonly Place[]): Location | null => longest(target, places, [rootsOf]);

const rootsOf = (place: Place): readonly Address[] => [place.root, ...(place.aliases ?? [])];

/** @param names the first that has the longest prefix wins */
function longest(target: Address, places: readonly Place[], names: readonly ((place: Place) => readonly Address[])[]): Location | null {
  let best: { location: Location; depth: number } | null = null;
  for (const namesOf of names)
    for (const place of places)
      for (const prefix of namesOf(place)) {
        const segments = below(prefix, target, place.ignoresCase);
        if (segments && (!best || prefix.segments.length > best.depth))
          best = { location: { place: place.name, segments }, depth: prefix.segments.length };
      }
  return best && best.location;
}

export const placeNamed = (places: readonly Place[], name: string): Place | undefined => places.find((p) => p.name === name);

/** Where the location is on this machine. */
export const addressOn = ({ root }: Place, segments: readonly string[]): Address =>
  address(root.flavour, root.root, [...root.segments, ...segments]);

/** How the location is called in files: by the place's first drive name, else by where it is on this machine. */
export function absoluteAddress(location: Location, places: readonly Place[]): Address {
  const place = placeNamed(places, location.place);
  if (!place) throw new Error(`unknown place ${location.place}`);
  const base = place.driveNames[0] ?? place.root;
  return address(base.flavour, base.root, [...base.segments, ...location.segments]);
}

/** Are two names one on this place? */
export const sameNameOn =
  (place: Place | undefined) =>
  (a: string, b: string): boolean =>
    place?.ignoresCase ? foldName(a) === foldName(b) : normalName(a) === normalName(b);
