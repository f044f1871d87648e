import Joi from 'joi';
import type { Loss } from '../dataset/loss.js';
import { RESAMPLINGS, type Resampling } from '../look/look.js';
import { type PathRequest, pathRequest } from './places.js';
import { epsgCode, objectOf } from './shapes.js';

/** Copies of datasets in another CRS, each a geodatabase of one table, or a GeoTIFF. */
export interface CopiesRequest {
  /** Ids of datasets. */
  readonly datasets: readonly string[];
  /** `EPSG:n`. */
  readonly crs: string;
  /** Folder; a new one is made. */
  readonly into: PathRequest;
  /** How the pixels of rasters are computed; left out: as suits each. */
  readonly resampling?: Resampling;
  /** Side of a pixel of rasters, in the units of the CRS; left out: as theirs come to lie. */
  readonly pixel?: number;
}

export const copiesRequest = objectOf<CopiesRequest>({
  datasets: Joi.array().items(Joi.string().max(8192)).min(1).max(1000).required(),
  crs: epsgCode.required(),
  into: pathRequest.required(),
  resampling: Joi.string().valid(...RESAMPLINGS),
  pixel: Joi.number().positive().max(1e9),
});

export interface CopiesPreview {
  readonly copies: readonly {
    readonly id: string;
    readonly name: string;
    readonly from: string;
    /** How far positions may be off; null: exact. */
    readonly doubt: string | null;
    /** Of a raster: its pixels. */
    readonly records: number;
    readonly raster: PlannedRaster | null;
    readonly losses: readonly Loss[];
  }[];
  readonly left: readonly { readonly id: string; readonly why: string }[];
}

export interface PlannedRaster {
  readonly width: number;
  readonly height: number;
  /** Side of a pixel, in the units of the CRS. */
  readonly pixel: number;
  readonly resampling: Resampling;
  /** Why it is that one. */
  readonly because: string;
  /** Smaller pictures of itself that stand in the file. */
  readonly reduced: number;
}

/** What became of the records of each copy. */
export interface CopiesDone {
  readonly copies: readonly {
    readonly name: string;
    readonly unit: 'records' | 'pixels';
    /** Of pixels: those of the copy, and those of them that have a value. */
    readonly read: number;
    readonly written: number;
    readonly skipped: readonly { readonly record: number; readonly why: string }[];
    readonly losses: readonly Loss[];
  }[];
}
