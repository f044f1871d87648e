import Joi from 'joi';
import type { Loss } from '../dataset/loss.js';
import { type PathRequest, pathRequest } from './places.js';
import type { ThreeBands } from '../look/look.js';
import { selection, type Selection } from './selection.js';
import { bandNumber, epsgCode, objectOf, threeBands } from './shapes.js';

const EXPORT_FORMATS = ['geopackage', 'shapefile', 'geojson', 'csv', 'geotiff'] as const;

export type ExportFormat = (typeof EXPORT_FORMATS)[number];

/** One dataset is written as files of another format. */
export interface ExportRequest {
  /** Id of the dataset. */
  readonly dataset: string;
  readonly format: ExportFormat;
  /** The main file; its ending is that of the format. */
  readonly at: PathRequest;
  /** Shapes are computed in it; null: they keep their own. GeoJSON is in WGS 84 whatever is asked for. */
  readonly crs: string | null;
  /** Of a raster, from 1; empty: all bands of numbers, or the colours where it shows colours. */
  readonly bands: readonly number[];
  /** Bands of numbers that become a picture; null: none do. */
  readonly composite: ThreeBands | null;
  /** Which of its records. */
  readonly selection: Selection;
}

export const exportRequest = objectOf<ExportRequest>({
  dataset: Joi.string().max(8192).required(),
  format: Joi.string()
    .valid(...EXPORT_FORMATS)
    .required(),
  at: pathRequest.required(),
  crs: epsgCode.allow(null).default(null),
  bands: Joi.array().items(bandNumber).max(1000).unique().default([]),
  composite: threeBands.allow(null).default(null),
  selection,
});

export interface ExportPreview {
  readonly files: readonly { readonly path: string; readonly bytes: number | null }[];
  /** Records that are written, or pixels of one band. */
  readonly records: number;
  /** Records that it has in all. */
  readonly of: number;
  readonly unit: 'records' | 'pixels';
  /** Bands of numbers of a raster, to choose from; 0: it is none, or has colours only. */
  readonly bands: number;
  readonly crs: string | null;
  /** What the format cannot hold, as far as it can be told before. */
  readonly losses: readonly Loss[];
  /** It cannot be written so; null: it can. */
  readonly why: string | null;
}

/** A raster was read back, and its pixels were those of the source. */
export interface RasterCheck {
  /** Pixels that were looked at, in all bands. */
  readonly pixels: number;
  /** Who read the source: another reader, or the one that wrote, where no other reads it. */
  readonly by: 'another' | 'own';
}

export interface ExportDone {
  readonly path: string;
  readonly unit: 'records' | 'pixels';
  /** Of a raster; null: it is none. */
  readonly check: RasterCheck | null;
  readonly read: number;
  readonly written: number;
  readonly skipped: readonly { readonly record: number; readonly why: string }[];
  readonly losses: readonly Loss[];
}
