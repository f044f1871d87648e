import Joi from 'joi';
import type { Loss } from '../dataset/loss.js';
import { type PathRequest, pathRequest } from './places.js';
import { epsgCode, objectOf } from './shapes.js';

/** Copies of datasets in another CRS, each a geodatabase of one table. */
export interface CopiesRequest {
  /** Ids of datasets. */
  readonly datasets: readonly string[];
  /** `EPSG:n`. */
  readonly crs: string;
  /** Folder; a new one is made. */
  readonly into: PathRequest;
}

export const copiesRequest = objectOf<CopiesRequest>({
  datasets: Joi.array().items(Joi.string().max(8192)).min(1).max(1000).required(),
  crs: epsgCode.required(),
  into: pathRequest.required(),
});

export interface CopiesPreview {
  readonly copies: readonly {
    readonly id: string;
    readonly name: string;
    readonly from: string;
    /** How far positions may be off; null: exact. */
    readonly doubt: string | null;
    readonly records: number;
    readonly losses: readonly Loss[];
  }[];
  readonly left: readonly { readonly id: string; readonly why: string }[];
}

/** What became of the records of each copy. */
export interface CopiesDone {
  readonly copies: readonly {
    readonly name: string;
    readonly read: number;
    readonly written: number;
    readonly skipped: readonly { readonly record: number; readonly why: string }[];
    readonly losses: readonly Loss[];
  }[];
}
