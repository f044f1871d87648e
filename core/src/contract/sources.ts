import Joi from 'joi';
import type { Origin } from '../origin/origin.js';
import { pathRequest, type PathRequest } from './requests.js';

/** One thing in an archive or among dropped files, before it is unpacked. */
export interface IntakeGroup {
  /** As it stands in the archive. */
  readonly path: string;
  readonly kind: string;
  readonly format: string;
  readonly files: readonly string[];
  readonly bytes: number;
  readonly geometry: string | null;
  readonly count: number | null;
  readonly crs: string | null;
  /** Headers are read once it is unpacked; until then geometry, count and CRS are not known. */
  readonly isDescribed: boolean;
  readonly findings: readonly { readonly code: string; readonly message: string }[];
}

export interface IntakeView {
  readonly id: string;
  readonly name: string;
  /** Where it was chosen; null: it was dropped into the page. */
  readonly source: PathRequest | null;
  /** Files that were dropped one by one: companions can be added to them. */
  readonly isLoose: boolean;
  readonly files: number;
  readonly bytes: number;
  /** The folder that wraps everything, left out when it is unpacked. */
  readonly wrapper: string;
  /** What systems leave for themselves: left out. */
  readonly litter: number;
  readonly groups: readonly IntakeGroup[];
  readonly refused: readonly { readonly path: string; readonly why: string }[];
  /** Told where nothing at all can be read. */
  readonly problem: string | null;
  /** What the notes in it tell. */
  readonly proposed: Partial<Origin>;
  /** Bytes that are free where the project is. */
  readonly freeBytes: number | null;
  /** Companions that stand elsewhere, for what lacks them here. */
  readonly elsewhere: readonly { readonly missing: string; readonly at: PathRequest }[];
}

const text = Joi.string().allow('').max(4000).default('');
export const originBody = Joi.object<Origin>({
  title: text,
  publisher: text,
  page: text,
  address: text,
  fetched: Joi.string()
    .pattern(/^\d{4}-\d{2}-\d{2}$/)
    .allow('')
    .default(''),
  licence: text,
  attribution: text,
  isReobtainable: Joi.boolean().default(true),
  statedCrs: text,
  statedUnits: text,
  disclaimer: text,
  notes: text,
});

export interface IntakeRequest {
  /** The folder that it goes into; a new one is made. */
  readonly into: PathRequest;
  /** Main paths of what is wanted; null: everything. */
  readonly wanted: readonly string[] | null;
  readonly safeNames: boolean;
  readonly origin: Origin;
  /** Sends the archive to the trash once all of it is unpacked and checked. */
  readonly removeArchive: boolean;
}
export const intakeRequest = Joi.object<IntakeRequest>({
  into: pathRequest.required(),
  wanted: Joi.array().items(Joi.string().max(4096)).max(100_000).allow(null).default(null),
  safeNames: Joi.boolean().default(true),
  origin: originBody.required(),
  removeArchive: Joi.boolean().default(false),
});

export interface IntakeDone {
  readonly folder: string;
  readonly files: number;
  readonly bytes: number;
}

export interface OriginRequest {
  /** Ids of datasets. */
  readonly datasets: readonly string[];
  readonly origin: Origin;
}
export const originRequest = Joi.object<OriginRequest>({
  datasets: Joi.array().items(Joi.string().max(8192)).min(1).max(20_000).required(),
  origin: originBody.required(),
});

/** What the dataset table and its details show beside a `DatasetView`. */
export interface SourceView {
  /** Id of the dataset. */
  readonly id: string;
  readonly fields: readonly (readonly [string, string])[];
  readonly bbox: readonly [number, number, number, number] | null;
  readonly crsName: string | null;
  /** Unit of its coordinates, and the area that its CRS is meant for, as far as the registry tells. */
  readonly unit: string | null;
  readonly crsArea: string | null;
  /** What the CRS is made of; each null where it is not known. */
  readonly crsFacts: { readonly datum: string | null; readonly ellipsoid: string | null; readonly method: string | null } | null;
  /** The file calls its CRS otherwise, though it is the same but for the name. */
  readonly crsOtherName: string | null;
  readonly modifiedMs: number;
  readonly files: readonly string[];
  readonly usedBy: number;
  /** Whose it is: `this project`, or the link that it is shared by. */
  readonly owner: string;
  readonly origin: Origin | null;
  readonly findings: readonly { readonly code: string; readonly message: string }[];
}
export interface SourcesView {
  readonly sources: readonly SourceView[];
  /** What a map has to say of the data that the project's layers use. */
  readonly attribution: string;
  /** Folders with the role `originals`, for what is brought in. */
  readonly originals: readonly string[];
  /** Folder that is worked in, from the root. */
  readonly workFolder: string;
  /** Where files for others are proposed to go, from the root. */
  readonly exportsFolder: string;
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
export const thumbnailsRequest = Joi.object<ThumbnailsRequest>({
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

/** What linking a folder would mean, and what would be better. */
export interface LinkAdvice {
  /** It is inside this link already. */
  readonly inside: string | null;
  /** Linking this folder instead would take the others along. */
  readonly parent: { readonly at: PathRequest; readonly replaces: readonly string[] } | null;
  readonly files: number;
  readonly folders: number;
  readonly bytes: number;
  readonly milliseconds: number;
  /** Counting was ended: there is more. */
  readonly isPartial: boolean;
  readonly isWholePlace: boolean;
  /** Folders with data, the one with the most first; for a place that is too large. */
  readonly better: readonly { readonly at: PathRequest; readonly files: number }[];
  readonly proposedName: string;
}

/** Copies of datasets in another CRS, each a geodatabase of one table. */
export interface CopiesRequest {
  /** Ids of datasets. */
  readonly datasets: readonly string[];
  /** `EPSG:n`. */
  readonly crs: string;
  /** Folder; a new one is made. */
  readonly into: PathRequest;
}
export const copiesRequest = Joi.object<CopiesRequest>({
  datasets: Joi.array().items(Joi.string().max(8192)).min(1).max(1000).required(),
  crs: Joi.string()
    .pattern(/^EPSG:\d{4,6}$/)
    .required(),
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
  }[];
}
