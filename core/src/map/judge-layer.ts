import { foldName, printAddress, type Address } from '../address/address.js';
import { addressOn, placeNamed, type Location, type Place } from '../address/place.js';
import { parseReference, type Reference } from '../address/reference.js';
import { resolveIn } from '../address/resolve-in.js';
import { toFileUri } from '../address/file-uri.js';
import type { Fingerprint } from '../dataset/fingerprint.js';
import { differenceFrom, type LayerState, type Reach, type Reason } from './layer-state.js';
import { layerNamesOf, serviceAddress } from '../service/service-address.js';
import type { MapLayer } from './map-file.js';

/** What stands at a location, as whoever can look tells it. */
export type Found =
  | { readonly kind: 'nothing' }
  | { readonly kind: 'ambiguous'; readonly spellings: readonly string[] }
  | { readonly kind: 'leaves-place' }
  | { readonly kind: 'denied' }
  | { readonly kind: 'not-a-dataset' }
  | { readonly kind: 'damaged'; readonly why: string }
  /** The path cannot be opened there: no program would get to it. */
  | { readonly kind: 'too-long'; readonly characters: number; readonly longest: number }
  | { readonly kind: 'no-table'; readonly tables: readonly string[] }
  | { readonly kind: 'table-not-named'; readonly tables: readonly string[] }
  | {
      readonly kind: 'dataset';
      readonly fingerprint: Fingerprint;
      readonly table: string | null;
      readonly incomplete: string | null;
      /** The spelling on disk where it is not that of the reference. */
      readonly spelled: readonly string[] | null;
      /** Where symbolic links lead, when that is not the path itself. */
      readonly realLocation: Location | null;
    };

/** What came of asking a linked service last. */
export interface Asked {
  readonly atMs: number;
  readonly answered: boolean;
  /** When it answered last; null: never. */
  readonly okMs: number | null;
  /** A clause: why it did not answer. */
  readonly why: string | null;
  /** Names of what it offers; null: it does not say. */
  readonly offers: readonly string[] | null;
}

export interface Surroundings {
  readonly places: readonly Place[];
  /** The project's root; null for a lone map. */
  readonly root: Location | null;
  /** Where the project's linked folders are. */
  readonly links: readonly Location[];
  /** What is known of a service, by its address as `serviceAddress` tells it; left out: nobody asked. */
  readonly asked?: ReadonlyMap<string, Asked>;
  look(location: Location, table: string | null): Found;
}

export interface Judgement {
  readonly state: LayerState;
  readonly reason?: Reason;
  /** One clause for people, where the reason alone does not say it all. */
  readonly detail?: string;
  readonly stored: 'relative' | 'absolute' | 'service';
  readonly reach: Reach;
  /** Real path, `file:` URI of a foreign address, or the service's URL; null where it resolves to nothing. */
  readonly resolved: string | null;
  /** Inside a place, where the address belongs to one. */
  readonly location: Location | null;
  /** The parsed address when no place claims it. */
  readonly foreign: Address | null;
  readonly table: string | null;
  readonly found: Fingerprint | null;
  readonly spelled: readonly string[] | null;
}

const base = { location: null, foreign: null, found: null, spelled: null, table: null, resolved: null } as const;

/** State and reach of a layer. The first of the rules that fits decides; nothing is written, no service is asked. */
export function judgeLayer(map: Location, layer: MapLayer, s: Surroundings): Judgement {
  if (!layer.reference) return { ...base, state: 'adrift', reason: 'no-reference', stored: 'relative', reach: 'outside' };
  if (layer.isService) return judgeService(layer.reference.href, s.asked);
  const parsed = parseReference(layer.reference.href);
  if (!parsed.ok) return { ...base, state: 'adrift', reason: 'bad-address', stored: 'relative', reach: 'outside' };
  const reference = parsed.value as Exclude<Reference, { kind: 'service' }>;
  const stored = reference.kind;
  const where = resolveIn(map, reference, s.places);
  const table = reference.fragment;
  if (where === 'above-root') return { ...base, table, state: 'adrift', reason: 'above-root', stored, reach: 'outside' };
  if ('flavour' in where)
    return { ...base, table, state: 'adrift', reason: 'no-place', stored, reach: 'outside', foreign: where, resolved: toFileUri(where) };
  const place = placeNamed(s.places, where.place)!;
  const common = {
    ...base,
    table,
    stored,
    location: where,
    reach: reachOf(where, s),
    resolved: printAddress(addressOn(place, where.segments)),
  };
  if (!place.present) return { ...common, state: 'absent' };
  return judgeFound(common, s.look(where, table), layer, s);
}

const dateOf = (ms: number): string => new Date(ms).toISOString().slice(0, 16).replace('T', ' ');

/** A service counts as sound only when it was asked, answered, and offers what the layer draws. */
function judgeService(href: string, asked: Surroundings['asked']): Judgement {
  const common = { ...base, stored: 'service', reach: 'service', resolved: href } as const;
  const answer = asked?.get(serviceAddress(href));
  if (!answer) return { ...common, state: 'not-asked' };
  if (!answer.answered) {
    const last = answer.okMs === null ? 'it never answered' : `it answered last on ${dateOf(answer.okMs)} UTC`;
    return { ...common, state: 'absent', reason: 'no-answer', detail: `${answer.why ?? 'it does not answer'}; ${last}` };
  }
  const missing = answer.offers === null ? [] : layerNamesOf(href).filter((name) => !answer.offers!.includes(name));
  if (missing.length > 0)
    return { ...common, state: 'adrift', reason: 'not-offered', detail: `it answers, and does not offer ${missing.join(', ')}` };
  return { ...common, state: 'sound', reason: 'answered', detail: `it answered on ${dateOf(answer.atMs)} UTC` };
}

type Common = Omit<Judgement, 'state'>;

function judgeFound(common: Common, found: Found, layer: MapLayer, s: Surroundings): Judgement {
  switch (found.kind) {
    case 'nothing':
      return { ...common, state: 'adrift', reason: 'no-file' };
    case 'ambiguous':
      return { ...common, state: 'adrift', reason: 'ambiguous', detail: `could be ${found.spellings.join(' or ')}` };
    case 'leaves-place':
      return { ...common, state: 'adrift', reason: 'leaves-place', detail: 'a link on the way leads out of its place' };
    case 'no-table':
    case 'table-not-named':
      return { ...common, state: 'adrift', reason: found.kind, detail: `tables there: ${found.tables.join(', ') || 'none'}` };
    case 'denied':
      return { ...common, state: 'unreadable', reason: 'permission' };
    case 'not-a-dataset':
      return { ...common, state: 'unreadable', reason: 'not-a-dataset' };
    case 'too-long':
      return {
        ...common,
        state: 'unreadable',
        reason: 'path-too-long',
        detail: `its path would have ${found.characters} characters, and ${found.longest} can be opened`,
      };
    case 'damaged':
      return { ...common, state: 'unreadable', reason: 'damaged', detail: found.why };
    case 'dataset':
      break;
  }
  const real = found.realLocation;
  const seen: Common = {
    ...common,
    table: found.table ?? common.table,
    found: found.fingerprint,
    spelled: found.spelled,
    reach: real ? reachOf(real, s) : common.reach,
  };
  if (found.incomplete) return { ...seen, state: 'incomplete', reason: 'companion-missing', detail: found.incomplete };
  const difference = differenceFrom(layer.fingerprint, found.fingerprint, layer.needs);
  if (difference) return { ...seen, state: 'different', ...difference };
  if (found.spelled) return { ...seen, state: 'sound', reason: 'spelling', detail: `on disk: ${found.spelled.join('/')}` };
  return real ? { ...seen, state: 'sound', reason: 'through-link' } : { ...seen, state: 'sound' };
}

export function isBelow(folder: Location, inner: Location, places: readonly Place[]): boolean {
  if (folder.place !== inner.place || inner.segments.length < folder.segments.length) return false;
  const place = placeNamed(places, folder.place);
  const key = place?.ignoresCase ? foldName : (n: string) => n.normalize('NFC');
  return folder.segments.every((segment, i) => key(segment) === key(inner.segments[i]!));
}

export function reachOf(location: Location, s: Pick<Surroundings, 'places' | 'root' | 'links'>): Reach {
  if (s.root && isBelow(s.root, location, s.places)) return 'inside';
  return s.links.some((l) => isBelow(l, location, s.places)) ? 'linked' : 'outside';
}
