import type { Plane } from '@rootmap/core';
import type { MapLayerView } from '@rootmap/core/contract';

/** The middle of a page in the plane of its map, and 1:n. */
export interface Spot {
  readonly center: readonly [number, number];
  readonly scale: number;
}

export type Box = readonly [west: number, south: number, east: number, north: number];

/** Where layers lie in a plane; null: none of them says it. */
export function boxOfLayers(layers: readonly MapLayerView[], plane: Plane): Box | null {
  const boxes = layers.flatMap((l) => (l.degrees ? [l.degrees] : []));
  const corners = boxes.flatMap(([w, s, e, n]) => [[w, s], [w, n], [e, s], [e, n]] as const).flatMap((p) => plane.toPlane(p) ?? []); // prettier-ignore
  return boxOfNumbers(corners);
}

/** @param numbers x, y, x, y … @returns null: there are none */
export function boxOfNumbers(numbers: readonly number[]): Box | null {
  const [xs, ys] = [0, 1].map((k) => numbers.filter((_, i) => i % 2 === k)) as [number[], number[]];
  return xs.length === 0 ? null : [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

export const middleOf = (box: Box): Spot['center'] => [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2];
