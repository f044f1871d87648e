import { fieldOfLook, type Label, type Look } from '@rootmap/core';
import type { LayerDataView } from '@rootmap/core/contract';
import { keptList, withNamed } from '../../parts/kept-list.js';

/** A look that a person keeps for other maps and projects. */
export interface KeptLook {
  readonly name: string;
  readonly kind: LayerDataView['kind'];
  readonly look: Look;
  readonly label: Label | null;
}

const MOST = 200;
const isKept = (value: unknown): value is KeptLook => {
  const { name, look } = (value ?? {}) as Partial<KeptLook>;
  return typeof name === 'string' && typeof look?.kind === 'string';
};
const list = keptList('rootmap.looks', isKept, MOST);
const keep = (look: KeptLook): void => list.set(withNamed(list.now(), look));
const drop = (name: string): void => list.set(list.now().filter((l) => l.name !== name));

/** The shelf of looks of this browser: one name, one look. */
export const useLookShelf = () => ({ shelf: list.use(), keep, drop });

const KINDS: Readonly<Record<NonNullable<LayerDataView['kind']>, string>> = {
  point: 'points',
  line: 'lines',
  area: 'areas',
  mixed: 'several kinds of shapes',
  raster: 'rasters',
  table: 'tables',
};

/** Why a layer cannot have a look; null: it can. */
export function whyNot(
  { kind, look }: Pick<KeptLook, 'kind' | 'look'>,
  ofLayer: LayerDataView['kind'],
  fields: readonly string[],
): string | null {
  if (kind !== ofLayer) return `it is for ${kind === null ? 'other data' : KINDS[kind]}`;
  const field = look.kind === 'raster' ? null : fieldOfLook(look);
  return field !== null && !fields.includes(field) ? `there is no field ${field} here` : null;
}
