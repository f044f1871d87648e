import Joi from 'joi';
import type { Loss } from '../dataset/loss.js';
import { type PathRequest, pathRequest } from './places.js';
import { epsgCode, objectOf } from './shapes.js';

const EXPORT_FORMATS = ['shapefile', 'geojson', 'csv'] as const;

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
}

export const exportRequest = objectOf<ExportRequest>({
  dataset: Joi.string().max(8192).required(),
  format: Joi.string()
    .valid(...EXPORT_FORMATS)
    .required(),
  at: pathRequest.required(),
  crs: epsgCode.allow(null).default(null),
});

export interface ExportPreview {
  readonly files: readonly { readonly path: string; readonly bytes: number | null }[];
  readonly records: number;
  readonly crs: string | null;
  /** What the format cannot hold, as far as it can be told before. */
  readonly losses: readonly Loss[];
  /** It cannot be written so; null: it can. */
  readonly why: string | null;
}

export interface ExportDone {
  readonly path: string;
  readonly read: number;
  readonly written: number;
  readonly skipped: readonly { readonly record: number; readonly why: string }[];
  readonly losses: readonly Loss[];
}
