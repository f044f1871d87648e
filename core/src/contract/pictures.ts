import Joi from 'joi';
import type { ClassMethod, KeyValue, RasterLook } from '../look/look.js';
import { rasterLook } from './map-draft.js';
import { epsgCode, text, objectOf } from './shapes.js';

/** How the records of a layer are told apart in its tiles. */
export interface LayerDrawing {
  readonly filter: string;
  readonly rules: readonly { readonly filter: string | null; readonly isElse: boolean }[];
  readonly label: string | null;
  readonly raster: RasterLook | null;
}

export interface LayerPictureRequest {
  readonly dataset: string;
  readonly crs: string | null;
  readonly drawing: LayerDrawing;
}

export const layerPictureRequest = objectOf<LayerPictureRequest>({
  dataset: Joi.string().max(8192).required(),
  crs: epsgCode.allow(null).required(),
  drawing: objectOf<LayerDrawing>({
    filter: text(4000).required(),
    rules: Joi.array()
      .items(Joi.object({ filter: text(4000).allow(null).required(), isElse: Joi.boolean().required() }))
      .max(1000)
      .required(),
    label: text(1000).allow(null).required(),
    raster: rasterLook.allow(null).required(),
  }).required(),
});

export interface LayerPictureView extends PreviewView {
  /** Name of the drawing, for the tiles; null: a plain one. */
  readonly drawing: string | null;
  /** Rules that each class of records is drawn by: a feature of a tile says its class as `c`. */
  readonly classes: readonly (readonly number[])[];
  /** Records of each rule, and those that are not drawn. */
  readonly counts: readonly number[];
  readonly hidden: number;
  /** Values between which the band of the look is stretched where it does not say otherwise; null: it is no raster, or has no numbers. */
  readonly stretch: { readonly from: number; readonly to: number } | null;
  /** Bands whose numbers can be drawn, and whether the raster has colours of its own. */
  readonly bands: number;
  readonly hasColours: boolean;
}

export interface ClassesRequest {
  readonly dataset: string;
  readonly field: string;
  readonly method: Exclude<ClassMethod, 'given'> | 'values';
  readonly classes: number;
  readonly filter: string;
}

export const classesRequest = objectOf<ClassesRequest>({
  dataset: Joi.string().max(8192).required(),
  field: Joi.string().max(400).required(),
  method: Joi.string().valid('equal', 'quantile', 'natural', 'values').required(),
  classes: Joi.number().integer().min(1).max(24).default(5),
  filter: text(4000).default(''),
});

export interface ClassesView {
  readonly breaks: readonly number[];
  /** The most frequent values, and how often each is there. */
  readonly values: readonly { readonly value: KeyValue; readonly count: number }[];
  /** There are more values than these. */
  readonly isCut: boolean;
  readonly counted: number;
}

/** A small picture of a dataset, 96 by 60 pixels. */
export interface ThumbnailView {
  readonly kind: 'point' | 'line' | 'area' | 'raster';
  /** SVG path over those pixels. */
  readonly path: string;
  /** PNG, base64; of rasters. */
  readonly image: string | null;
}

export interface ThumbnailsRequest {
  /** Ids of datasets. */
  readonly datasets: readonly string[];
}

export const thumbnailsRequest = objectOf<ThumbnailsRequest>({
  datasets: Joi.array().items(Joi.string().max(8192)).min(1).max(32).required(),
});

/** What tiles of a dataset can be had under. */
export interface PreviewView {
  readonly version: string;
  readonly kind: 'vector' | 'raster';
  /** The CRS that it is drawn in, `EPSG:n`; null: its own, which nobody knows. */
  readonly crs: string | null;
  readonly proj4: string | null;
  readonly unit: string | null;
  readonly extent: readonly [number, number, number, number];
  /** Tiles of zoom 0 cover this square, from its upper left. */
  readonly square: { readonly minx: number; readonly maxy: number; readonly side: number };
  readonly finestZoom: number;
  readonly count: number | null;
  /** Shapes that have no place in that CRS, or are damaged. */
  readonly lost: number;
}

/** What stands in one field. Numbers are null where it holds none. */
export interface FieldStatistics {
  readonly name: string;
  readonly type: string;
  readonly filled: number;
  /** Null: more than a thousand. */
  readonly distinct: number | null;
  readonly min: number | null;
  readonly max: number | null;
  readonly mean: number | null;
  /** The most frequent values, or the first. */
  readonly samples: readonly string[];
}

export interface StatisticsView {
  readonly records: number;
  readonly fields: readonly FieldStatistics[];
  /** How the text of a dBASE table is encoded, and who says so. */
  readonly encoding: {
    readonly name: string;
    readonly from: '.cpg' | 'header' | 'statistics' | 'nobody';
    readonly confidence: number;
  } | null;
}
