import { EVERY_RECORD, type DraftLayer, type Selection, type SelectionArea } from '@rootmap/core/contract';
import type { Point } from '../edit/map-plane.js';

/** Where records have to lie. */
type Where = 'everywhere' | 'in-sight' | 'measured';

/** What a person asks of a part, before it is put together. */
export interface PartWish {
  /** As the layer's filter has it. */
  readonly byFilter: boolean;
  readonly byChosen: boolean;
  readonly where: Where;
  /** A further condition, CQL2 text. */
  readonly condition: string;
}

/** What the map knows that a part can be taken by. */
export interface PartKnown {
  readonly layer: Pick<DraftLayer, 'filter'>;
  readonly chosen: readonly number[];
  readonly crs: string | null;
  /** minx, miny, maxx, maxy of what is on the screen. */
  readonly inSight: readonly number[] | null;
  readonly measured: readonly Point[] | null;
}

const LEAST_CORNERS = 3;

/** What there is to choose from. */
export const canBe = ({ layer, chosen, inSight, measured }: PartKnown) => ({
  byFilter: layer.filter.trim() !== '',
  byChosen: chosen.length > 0,
  inSight: inSight !== null,
  measured: measured !== null && measured.length >= LEAST_CORNERS,
});

/** The selection that a wish means; every record where nothing is asked. */
export function selectionOf(wish: PartWish, known: PartKnown): Selection {
  const can = canBe(known);
  const filters = [
    ...(wish.byFilter && can.byFilter ? [known.layer.filter.trim()] : []),
    ...(wish.condition.trim() ? [wish.condition.trim()] : []),
  ];
  return {
    ...EVERY_RECORD,
    filter: filters.length > 1 ? filters.map((f) => `(${f})`).join(' AND ') : (filters[0] ?? ''),
    area: areaOf(wish.where, known),
    records: wish.byChosen && can.byChosen ? known.chosen : null,
  };
}

function areaOf(where: Where, { crs, inSight, measured }: PartKnown): SelectionArea | null {
  if (where === 'measured' && measured && measured.length >= LEAST_CORNERS) return { crs, corners: measured };
  if (where !== 'in-sight' || !inSight) return null;
  const [minx, miny, maxx, maxy] = inSight as [number, number, number, number];
  return { crs, corners: [[minx, miny], [maxx, miny], [maxx, maxy], [minx, maxy]] }; // prettier-ignore
}
