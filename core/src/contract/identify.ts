import Joi from 'joi';
import type { Field } from '../dataset/dataset.js';
import type { ShownValue } from './rows.js';
import { objectOf, recordId } from './shapes.js';

/** What stands at a point of a map, in the layers whose pictures are named. */
export interface IdentifyRequest {
  /** x east, y north, in the CRS that the layers are drawn in. */
  readonly at: readonly [x: number, y: number];
  /** Points and lines count from so far away, in units of that CRS. */
  readonly reach: number;
  readonly layers: readonly PictureOfLayer[];
}
/** A layer as `layer-picture` made it ready. */
export interface PictureOfLayer {
  readonly id: string;
  readonly version: string;
  readonly drawing: string | null;
}

const version = Joi.string().hex().length(32).required();

export const identifyRequest = objectOf<IdentifyRequest>({
  at: Joi.array().ordered(Joi.number().required(), Joi.number().required()).required(),
  reach: Joi.number().min(0).required(),
  layers: Joi.array()
    .items(
      objectOf<PictureOfLayer>({
        id: Joi.string().max(2000).required(),
        version,
        drawing: Joi.string().hex().length(16).allow(null).required(),
      }),
    )
    .max(2000)
    .required(),
});

export interface IdentifiedShape {
  /** Id of the record that it is of. */
  readonly record: number;
  readonly kind: 'point' | 'line' | 'area';
  /** From the point to it, in units of the CRS; 0 inside an area. */
  readonly away: number;
}

export interface IdentifiedLayer {
  readonly id: string;
  /** The nearest first, the smallest of those that are equally near. */
  readonly shapes: readonly IdentifiedShape[];
  /** Further ones that are near and not listed. */
  readonly more: number;
  /** Of a raster: the value of each band at the point, null where it has none. Null: it is none, or the point is outside. */
  readonly bands: readonly (number | null)[] | null;
  /** Of a raster of colours: `#rrggbb`. */
  readonly colour: string | null;
  /** Why it could not be asked. */
  readonly problem: string | null;
}

/** Records of a dataset with all their values, by their ids. */
export interface RecordsRequest {
  readonly dataset: string;
  readonly records: readonly number[];
}
export const recordsRequest = objectOf<RecordsRequest>({
  dataset: Joi.string().max(8192).required(),
  records: Joi.array().items(recordId).min(1).max(200).required(),
});

export interface RecordsView {
  readonly fields: readonly Field[];
  /** In the order that was asked for; those that are not there are left out. */
  readonly records: readonly { readonly id: number; readonly values: readonly ShownValue[] }[];
}

/** Shapes of records as they are drawn. */
export interface ShapesRequest {
  readonly version: string;
  readonly records: readonly number[];
}
export const shapesRequest = objectOf<ShapesRequest>({ version, records: Joi.array().items(recordId).min(1).max(2000).required() });

export interface DrawnShape {
  readonly record: number;
  readonly kind: IdentifiedShape['kind'];
  readonly box: readonly [minx: number, miny: number, maxx: number, maxy: number];
  /** Positions x, y, x, y … of each part; of an area, of each ring. Null: it has too many to be shown; its box stands for it. */
  readonly runs: readonly (readonly number[])[] | null;
}

/** What a layer draws in a frame on paper. */
export interface PageShapesRequest {
  readonly version: string;
  readonly drawing: string | null;
  /** Of the frame, in the CRS that the layer is drawn in. */
  readonly box: readonly [minx: number, miny: number, maxx: number, maxy: number];
  /** Positions nearer to one another than this are one, in units of that CRS. */
  readonly tolerance: number;
}
export const pageShapesRequest = objectOf<PageShapesRequest>({
  version,
  drawing: Joi.string().hex().length(16).allow(null).required(),
  box: Joi.array().items(Joi.number().required()).length(4).required(),
  tolerance: Joi.number().min(0).required(),
});

export interface PageShape {
  /** Class of its record; 0 where all are drawn alike. */
  readonly c: number;
  readonly kind: IdentifiedShape['kind'];
  /** Positions x, y, x, y … of each part; of an area, of each ring. */
  readonly runs: readonly (readonly number[])[];
}
export interface PageLabel {
  readonly text: string;
  readonly at: readonly [x: number, y: number];
  /** Of a line where it stands, in degrees counter-clockwise from east, between −90 and 90; 0 for all else. */
  readonly angle: number;
}
/** Null: it has more positions there than are set one by one; a picture stands for it. */
export interface PageShapes {
  readonly shapes: readonly PageShape[];
  readonly labels: readonly PageLabel[];
}
