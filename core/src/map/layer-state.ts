import { crsDiffers } from '../crs/identify.js';
import type { Fingerprint } from '../dataset/fingerprint.js';

export type LayerState = 'sound' | 'not-asked' | 'different' | 'incomplete' | 'adrift' | 'absent' | 'unreadable';
export const LAYER_STATES: readonly LayerState[] = ['sound', 'not-asked', 'different', 'incomplete', 'adrift', 'absent', 'unreadable'];
/** Nothing is known to be wrong with it: its data is there, or it is a service that nobody asked. */
export const isInOrder = (state: LayerState): boolean => state === 'sound' || state === 'not-asked';
export type Reach = 'inside' | 'linked' | 'outside' | 'service';

/** Why a layer is in its state, where that needs saying. */
export type Reason =
  | 'no-answer'
  | 'not-offered'
  | 'answered'
  | 'spelling'
  | 'ambiguous'
  | 'through-link'
  | 'no-reference'
  | 'bad-address'
  | 'above-root'
  | 'no-place'
  | 'no-file'
  | 'no-table'
  | 'table-not-named'
  | 'leaves-place'
  | 'path-too-long'
  | 'permission'
  | 'damaged'
  | 'not-a-dataset'
  | 'companion-missing'
  | 'other-geometry'
  | 'other-crs'
  | 'field-gone'
  | 'field-type'
  | 'extent-apart'
  | 'fields-changed';

/** The family of a geometry: a multi-part or measured one is still the same kind. */
export function geometryKind(type: string | null): 'point' | 'line' | 'area' | 'mixed' | null {
  if (type === null) return null;
  if (/Point/.test(type)) return 'point';
  if (/Polygon|MultiPatch|MultiSurface/.test(type)) return 'area';
  if (/LineString|Curve|Circular/.test(type)) return 'line';
  return 'mixed';
}

/** Types that hold the same kind of value. */
export const fieldFamily = (type: string): string =>
  ['integer', 'integer64', 'real'].includes(type) ? 'number' : type === 'datetime' ? 'date' : type;
/** Names in a DBF are cut at ten bytes and changed in case by many writers. */
const fieldKey = (name: string): string => name.toLowerCase();

type Fields = NonNullable<Fingerprint['fields']>;
/** The field of that name; looked for first where it most likely stands, since most pairs are alike. */
function fieldNamed(fields: Fields, name: string, likely = 0): Fields[number] | undefined {
  if (fields[likely]?.[0] === name) return fields[likely];
  const key = fieldKey(name);
  return fields.find(([n]) => fieldKey(n) === key);
}

const otherKind = (a: string | null, b: string | null): boolean => {
  const x = geometryKind(a);
  const y = geometryKind(b);
  return x !== null && y !== null && x !== 'mixed' && y !== 'mixed' && x !== y;
};

/**
 * How what stands there differs from what the layer remembers, by the rules of state: geometry kind, CRS, needed fields,
 * extents apart, fewer than half of the fields. Null: it is the data it was, as far as anyone can tell. Hashes and counts
 * never enter.
 */
export function differenceFrom(
  remembered: Fingerprint | null,
  found: Fingerprint,
  needs: readonly string[],
): { readonly reason: Reason; readonly detail: string } | null {
  const { fields } = found;
  if (remembered) {
    const wasRaster = remembered.raster !== null;
    if (wasRaster !== (found.raster !== null) && (wasRaster || remembered.geometryType !== null))
      return { reason: 'other-geometry', detail: wasRaster ? 'it was a raster' : 'it was no raster' };
    if (otherKind(remembered.geometryType, found.geometryType))
      return { reason: 'other-geometry', detail: `${remembered.geometryType} became ${found.geometryType}` };
    if (crsDiffers(remembered.crs, found.crs))
      return { reason: 'other-crs', detail: `${crsText(remembered.crs)} became ${crsText(found.crs)}` };
  }
  if (fields) {
    for (const need of needs) {
      const type = fieldNamed(fields, need)?.[1];
      if (type === undefined) return { reason: 'field-gone', detail: `field ${need} is gone` };
      const before = remembered?.fields && fieldNamed(remembered.fields, need)?.[1];
      if (before && fieldFamily(before) !== fieldFamily(type))
        return { reason: 'field-type', detail: `field ${need} was ${before}, is ${type}` };
    }
  }
  const a = remembered?.extent;
  const b = found.extent;
  if (a && b && (a[2] < b[0] || b[2] < a[0] || a[3] < b[1] || b[3] < a[1]))
    return { reason: 'extent-apart', detail: 'it lies somewhere else' };
  const before = remembered?.fields;
  if (before && before.length > 0 && fields) {
    const kept = before.filter(([n], i) => fieldNamed(fields, n, i)).length;
    if (kept * 2 < before.length) return { reason: 'fields-changed', detail: `${kept} of ${before.length} fields are left` };
  }
  return null;
}

const crsText = (crs: string | { readonly wkt: string } | null): string =>
  crs === null ? 'no CRS' : typeof crs === 'string' ? crs : 'another CRS';
