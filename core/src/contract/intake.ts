import Joi from 'joi';
import type { ToldOrigin } from '../origin/read-metadata.js';
import type { FoundCrs } from '../crs/found-crs.js';
import type { Origin } from '../origin/origin.js';
import { type PathRequest, pathRequest } from './places.js';
import { originBody } from './sources.js';
import { objectOf } from './shapes.js';

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
  readonly datum: string | null;
  /** Of its coordinates. */
  readonly unit: string | null;
  /** Headers are read once it is unpacked; until then geometry, count and CRS are not known. */
  readonly isDescribed: boolean;
  readonly findings: readonly { readonly code: string; readonly message: string }[];
  /** What metadata of its own tells of its origin; it holds for this dataset alone. */
  readonly told: ToldOrigin | null;
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
  /** CRS, datum and unit of the project, for what arrives to be held against; null: it left its CRS open. */
  readonly reference: FoundCrs | null;
  /** Bytes that are free where the project is. */
  readonly freeBytes: number | null;
  /** Companions that stand elsewhere, for what lacks them here. */
  readonly elsewhere: readonly { readonly missing: string; readonly at: PathRequest }[];
}

export interface IntakeRequest {
  /** The folder that it goes into; a new one is made. */
  readonly into: PathRequest;
  /** Main paths of what is wanted; null: everything. */
  readonly wanted: readonly string[] | null;
  readonly safeNames: boolean;
  readonly origin: Origin;
  /** Sends the archive to the trash once all of it is unpacked and checked. */
  readonly removeArchive: boolean;
  /** What came in is checked, and its sheets begin. */
  readonly checks: boolean;
}

export const intakeRequest = objectOf<IntakeRequest>({
  into: pathRequest.required(),
  wanted: Joi.array().items(Joi.string().max(4096)).max(100_000).allow(null).default(null),
  safeNames: Joi.boolean().default(true),
  origin: originBody.required(),
  removeArchive: Joi.boolean().default(false),
  checks: Joi.boolean().default(false),
});

export interface IntakeDone {
  readonly folder: string;
  readonly files: number;
  readonly bytes: number;
  /** The job that checks what came in; null: nobody asked for it. */
  readonly checkJob: string | null;
}
