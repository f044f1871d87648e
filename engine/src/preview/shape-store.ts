import type { Extent } from '@rootmap/core';

/** What a shape is drawn as. */
export const POINT = 1;
export const LINE = 2;
export const AREA = 3;
export type Drawn = typeof POINT | typeof LINE | typeof AREA;

export interface StoredShape {
  readonly id: number;
  readonly kind: Drawn;
  /** Each run of x, y, x, y … */
  readonly runs: readonly Float64Array[];
}

export interface StoreHead {
  readonly count: number;
  readonly extent: Extent;
  /** Records whose shape has no place in the CRS that is wanted, or is damaged. */
  readonly lost: number;
}

/** Shapes in the CRS that they are drawn in, found by place. Positions are counted from 0. */
export interface ShapeStore {
  readonly head: StoreHead;
  /** minx, miny, maxx, maxy of each shape, one after the other. */
  readonly boxes: Float64Array;
  /** The record of each shape. */
  readonly ids: Float64Array;
  /** Positions of the shapes whose box meets another. */
  within(extent: Extent): readonly number[] | Uint32Array;
  /** The same for a small box that is asked for once: no index is made for it. */
  near(extent: Extent): readonly number[] | Uint32Array;
  shape(n: number): StoredShape;
  close(): void;
}
