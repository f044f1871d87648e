import Joi from 'joi';
import type { FieldProfile } from '../quality/profile.js';
import { ELEMENTS, type CheckResult, type Element, type QualityCheck } from '../quality/quality-check.js';
import { FITNESSES, type Review, type SheetState } from '../quality/quality-sheet.js';
import type { SheetNeed } from '../project/project-quality.js';
import { REPORT_FORMATS, type ReportFormat } from '../quality/sheet-report.js';
import type { StatedFact } from '../origin/origin.js';
import type { ChangeView } from './journal.js';
import { objectOf, text } from './shapes.js';

/** One dataset in the matrix of what is known of the quality of data. */
export interface QualityRow {
  readonly id: string;
  /** Path from the root or the link, with the table. */
  readonly name: string;
  readonly kind: 'vector' | 'raster' | 'table';
  readonly state: SheetState;
  /** A sentence: the sheet is there and cannot be read; null: it can, or is not there. */
  readonly problem: string | null;
  /** It stands where nothing may be written: what is computed is shown and not kept. */
  readonly isReadOnly: boolean;
  /** The worst that was found in each element. */
  readonly elements: Partial<Readonly<Record<Element, CheckResult>>>;
  /** Checks that found something, the certain ones and the ones to look at. */
  readonly fails: number;
  readonly notes: number;
  /** When it was computed last, RFC 3339; null: never. */
  readonly at: string | null;
  readonly reviewer: { readonly name: string; readonly date: string } | null;
  /** It came from elsewhere, and nobody wrote down where; or it has places and tells no CRS. */
  readonly lacks: readonly ('origin' | 'crs')[];
}
export interface QualityView {
  readonly rows: readonly QualityRow[];
  /** What the project asks of its data. */
  readonly asks: {
    /** Id of the dataset of areas that it is about. */
    readonly area: string | null;
    readonly sheets: SheetNeed;
    /** A sentence: the area is named and cannot be used. */
    readonly problem: string | null;
  };
}

export interface QualitySheetView {
  readonly row: QualityRow;
  readonly checks: readonly QualityCheck[];
  readonly fields: readonly FieldProfile[];
  readonly review: Review | null;
  /** Whether the reviewer saw the data that is there now; null: there is no review. */
  readonly isReviewCurrent: boolean | null;
  /** What its publisher states. */
  readonly stated: readonly StatedFact[];
}

export interface QualityCheckRequest {
  /** Ids; none: all. */
  readonly datasets: readonly string[];
  /** Also what is known already. */
  readonly anew: boolean;
}
const id = Joi.string().max(8192);
export const qualityCheckRequest = objectOf<QualityCheckRequest>({
  datasets: Joi.array().items(id).max(10_000).default([]),
  anew: Joi.boolean().default(false),
});

export interface QualityDone {
  readonly checked: number;
  /** Those whose sheet speaks of the data that is there. */
  readonly known: number;
  readonly failed: readonly { readonly dataset: string; readonly why: string }[];
  /** Sheets that were written; null: none. */
  readonly change: ChangeView | null;
}

export interface ReviewRequest extends Omit<Review, 'of'> {
  readonly dataset: string;
}
const said = Joi.object({
  fitness: Joi.string()
    .valid(...FITNESSES)
    .required(),
  words: text(4000).required(),
});
const saidOfElements = Joi.object(Object.fromEntries(Object.keys(ELEMENTS).map((element) => [element, said])));
export const reviewRequest = objectOf<ReviewRequest>({
  dataset: id.required(),
  elements: saidOfElements.required(),
  accuracy: text(4000).required(),
  fitFor: text(4000).required(),
  name: Joi.string().trim().min(1).max(200).required(),
  date: Joi.string()
    .pattern(/^\d{4}-\d{2}-\d{2}$/, 'a day, as 2026-03-14')
    .required(),
});

/** What is said in many reviews, kept under a title. */
export interface ReviewTemplate extends Pick<Review, 'elements' | 'accuracy' | 'fitFor'> {
  readonly title: string;
}
export interface KeptReviewTemplate extends ReviewTemplate {
  readonly id: string;
}
export const reviewTemplate = objectOf<ReviewTemplate>({
  title: Joi.string().trim().min(1).max(200).required(),
  elements: saidOfElements.required(),
  accuracy: text(4000).required(),
  fitFor: text(4000).required(),
});

export interface CompareEditionsRequest {
  /** Ids: the newer one, and the one that it is held against. */
  readonly dataset: string;
  readonly against: string;
  /** Field that tells which record is which; null: one that both have is found, or shape and content tell. */
  readonly key: string | null;
}
export const compareEditionsRequest = objectOf<CompareEditionsRequest>({
  dataset: id.required(),
  against: id.required(),
  key: Joi.string().max(400).allow(null).default(null),
});

export interface QualityReportQuery {
  readonly format: ReportFormat;
  /** Id; left out: all that have a sheet. */
  readonly dataset?: string;
}
export const qualityReportQuery = objectOf<QualityReportQuery>({
  format: Joi.string()
    .valid(...REPORT_FORMATS)
    .required(),
  dataset: id,
});

export const qualitySheetQuery = objectOf<{ readonly dataset: string }>({ dataset: id.required() });

export interface MatchPointsRequest {
  /** Ids: the dataset that is measured, and the better source. */
  readonly dataset: string;
  readonly better: string;
  /** Field that tells which point is which; null: the nearest one within the distance. */
  readonly key: string | null;
  /** In units of the dataset's CRS. */
  readonly within: number;
}
export const matchPointsRequest = objectOf<MatchPointsRequest>({
  dataset: id.required(),
  better: id.required(),
  key: Joi.string().max(400).allow(null).default(null),
  within: Joi.number().positive().required(),
});
