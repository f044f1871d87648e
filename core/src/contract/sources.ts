import Joi from 'joi';
import type { Origin } from '../origin/origin.js';
import { PASSAGE_KINDS, type StatedPassage } from '../origin/passage.js';
import { text, objectOf } from './shapes.js';

const noteText = text(4000).default('');

const editionText = Joi.string().max(400).allow(null).required();

export const passageBody = objectOf<StatedPassage>({
  about: Joi.string()
    .valid(...PASSAGE_KINDS)
    .required(),
  at: Joi.number().integer().min(0).required(),
  words: text(4000).required(),
  note: Joi.string().max(4096).required(),
});

export const originBody = objectOf<Origin>({
  title: noteText,
  publisher: noteText,
  page: noteText,
  address: noteText,
  fetched: Joi.string()
    .pattern(/^\d{4}-\d{2}-\d{2}$/)
    .allow('')
    .default(''),
  licence: noteText,
  attribution: noteText,
  isReobtainable: Joi.boolean().default(true),
  statedCrs: noteText,
  statedUnits: noteText,
  statedScale: noteText,
  statedDate: noteText,
  disclaimer: noteText,
  notes: noteText,
  passages: Joi.array().items(passageBody).max(100),
  edition: Joi.object({
    etag: editionText,
    modified: editionText,
    bytes: Joi.number().integer().min(0).allow(null).required(),
    sha256: editionText,
    records: Joi.number().integer().min(0).allow(null).required(),
    updated: editionText,
    degrees: Joi.array().items(Joi.number()).length(4),
  }),
});

export interface OriginRequest {
  /** Ids of datasets. */
  readonly datasets: readonly string[];
  readonly origin: Origin;
}

export const originRequest = objectOf<OriginRequest>({
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
  /** No code is registered for its CRS, and it is computed from its definition. */
  readonly crsIsOwn: boolean;
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
