import Joi from 'joi';
import type { ChangeView } from './journal.js';
import { type PathRequest, pathRequest } from './places.js';
import type { ThreeBands } from '../look/look.js';
import { SHAPE_PARTS, type ShapePart } from '../feature/shape-parts.js';
import { selection, type Selection } from './selection.js';
export type { ShapePart } from '../feature/shape-parts.js';
import { bandNumber, epsgCode, objectOf, threeBands } from './shapes.js';
import type { FieldType, WrittenAs } from '../dataset/dataset.js';
import type { Loss } from '../dataset/loss.js';
import type { StatedDialect } from '../format/csv/csvw.js';

export interface TableView {
  readonly name: string;
  /** Id of the dataset. */
  readonly id: string;
  readonly kind: string;
  readonly geometry: string | null;
  readonly count: number | null;
  readonly crs: string | null;
  readonly bbox: readonly [number, number, number, number] | null;
  readonly hasIndex: boolean;
  /** With its index; null: the file is too large to be looked through for it. */
  readonly bytes: number | null;
  /** As the container states it. */
  readonly lastChange: string | null;
  readonly usedBy: number;
}

export interface GeodatabaseView {
  /** Real path. */
  readonly path: string;
  /** From the root, or below its link. */
  readonly shownPath: string;
  readonly link: string | null;
  readonly isWorking: boolean;
  readonly bytes: number;
  /** What compaction would free. */
  readonly freeBytes: number;
  readonly tables: readonly TableView[];
  readonly problem: string | null;
}

export interface GeodatabasesView {
  readonly containers: readonly GeodatabaseView[];
  /** As the project file names it; null: none is named. */
  readonly working: string | null;
  readonly isWorkingThere: boolean;
  /** Maps, and the geodatabase that each names for itself. */
  readonly maps: readonly MapWorking[];
}

export interface MapWorking {
  /** From the root. */
  readonly map: string;
  readonly title: string;
  /** As the map names it; null: it works where the project does. */
  readonly href: string | null;
  /** Real path of what is there; null: nothing is, or it names none. */
  readonly path: string | null;
}

export interface NewGeodatabaseBody {
  readonly at: PathRequest;
  readonly crs: string | null;
}

export const newGeodatabaseBody = objectOf<NewGeodatabaseBody>({
  at: pathRequest.required(),
  crs: epsgCode.allow(null).default(null),
});

export interface ImportItem {
  /** Id of a dataset. */
  readonly dataset: string;
  /** Null: all of its shapes go into one table. */
  readonly part: ShapePart | null;
  /** Name of the table; '' asks for a proposal. */
  readonly table: string;
  /** Of a raster the band that is brought in, from 1; null or left out: its colours, or its first band. */
  readonly band?: number | null;
  /** Of a raster the bands that become the red, green and blue of a picture; null or left out: none do. */
  readonly composite?: ThreeBands | null;
  /** It takes the place of the table of that name, whose looks and relations stay. */
  readonly replaces?: boolean;
  /** Which of its records; null or left out: all. */
  readonly selection?: Selection | null;
}

export interface ImportRequest {
  readonly into: PathRequest;
  readonly items: readonly ImportItem[];
  /** All shapes are computed in it; null: each keeps its own. */
  readonly crs: string | null;
  /** Areas that break the rules are built anew from their lines. */
  readonly makesValid: boolean;
}

export const importRequest = objectOf<ImportRequest>({
  into: pathRequest.required(),
  items: Joi.array()
    .items(
      Joi.object({
        dataset: Joi.string().max(8192).required(),
        part: Joi.string()
          .valid(...SHAPE_PARTS)
          .allow(null)
          .default(null),
        table: Joi.string().allow('').max(200).default(''),
        band: bandNumber.allow(null).default(null),
        composite: threeBands.allow(null).default(null),
        replaces: Joi.boolean().default(false),
        selection: selection.allow(null).default(null),
      }),
    )
    .min(1)
    .max(500)
    .required(),
  crs: epsgCode.allow(null).default(null),
  makesValid: Joi.boolean().default(false),
});

/** What would become of one dataset. */
export interface ImportPlanItem {
  readonly dataset: string;
  readonly part: ShapePart | null;
  /** Kinds of shapes that it has, where they are several and no part was asked for: each could have its own table. */
  readonly parts: readonly ShapePart[];
  /** Bands of a raster of which one can be chosen; 0: there are none to choose from. */
  readonly bands: number;
  readonly band: number | null;
  readonly composite: ThreeBands | null;
  readonly table: string;
  /** The table of that name goes first. */
  readonly replaces: boolean;
  /** Which of its records; null: all. */
  readonly selection: Selection | null;
  readonly kind: 'features' | 'attributes' | 'raster';
  readonly geometry: string | null;
  readonly records: number | null;
  readonly crs: string | null;
  /** What is changed on the way: names of fields, kinds of shapes, CRS. */
  readonly notes: readonly string[];
  /** What of it a geodatabase cannot hold, or is not read here. */
  readonly losses: readonly Loss[];
  /** Of a table of text; null: it is none, or is left out. */
  readonly reading: TextReading | null;
  /** It cannot be brought in so; null: it can. */
  readonly why: string | null;
}

/** How a table of text is read, for people to confirm. */
export interface TextReading {
  /** A label of the WHATWG Encoding Standard, and whether it is only guessed from the letters. */
  readonly encoding: string;
  readonly isGuessed: boolean;
  readonly delimiter: string;
  /** Its first row names the columns. */
  readonly hasNames: boolean;
  /** What of this the metadata beside it state (CSVW); null: found out from its rows. */
  readonly stated: StatedDialect;
  /** With the first values as they stand in the file. */
  readonly columns: readonly {
    readonly name: string;
    readonly type: FieldType;
    readonly writtenAs: WrittenAs | null;
    readonly samples: readonly string[];
  }[];
}

export interface ImportPreview {
  readonly isNew: boolean;
  /** References to its only table that do not say which: they will, since there are to be several. */
  readonly named: number;
  readonly items: readonly ImportPlanItem[];
}

/** What became of the records of one dataset, or of its pixels: read = written + skipped. */
export interface ImportReceipt {
  readonly dataset: string;
  readonly part: ShapePart | null;
  readonly table: string;
  readonly unit: 'records' | 'pixels';
  readonly read: number;
  readonly written: number;
  readonly skipped: readonly { readonly record: number; readonly why: string }[];
  readonly nulls: number;
  readonly extent: readonly [number, number, number, number] | null;
  /** The extent that the dataset states of itself is that of what was written; null: they cannot be the same, or it states none. */
  readonly isExtentEqual: boolean | null;
  /** Shapes that break the rules of simple features: how many, how many of them were made valid, and the first. */
  readonly invalid: number;
  readonly fixed: number;
  readonly firstInvalid: readonly { readonly record: number; readonly why: string }[];
  /** Values as they were read and as they stand in the table are the same, but for `losses`. */
  readonly isEqual: boolean;
  /** How that is known of a raster; null: it is none. */
  readonly compared: ComparedPixels | null;
  readonly losses: readonly Loss[];
}

/** Pixels that were read again, in the source and in the table, and held against each other. */
interface ComparedPixels {
  readonly pixels: number;
  readonly of: number;
  /** By packages that share no code with what read and wrote it; false: none of them reads such a source. */
  readonly isByOthers: boolean;
}

export interface ImportDone {
  readonly geodatabase: string;
  readonly receipts: readonly ImportReceipt[];
  /** Sources that could not be read to their ends: nothing of them is in it. */
  readonly failed: readonly { readonly dataset: string; readonly part: ShapePart | null; readonly why: string }[];
}

/** What is done to tables of a geodatabase. References in maps follow. */
export type TableEdit = { readonly geodatabase: PathRequest } & (
  | { readonly action: 'rename'; readonly table: string; readonly name: string }
  | { readonly action: 'copy'; readonly table: string; readonly into: PathRequest; readonly name: string; readonly isMove: boolean }
  | { readonly action: 'drop'; readonly tables: readonly string[] }
  /** Written anew without the space that is free inside. */
  | { readonly action: 'compact' }
  /** What the check calls repairable. */
  | { readonly action: 'repair' }
  /** What can be read of a damaged one goes into a new one. */
  | { readonly action: 'rescue'; readonly into: PathRequest }
);

const tableName = Joi.string().max(400);

const forAction = (action: string, schema: Joi.Schema) =>
  schema.when('action', { is: action, then: Joi.required(), otherwise: Joi.forbidden() });

export const tableEdit: Joi.SchemaMap = {
  geodatabase: pathRequest.required(),
  action: Joi.string().valid('rename', 'copy', 'drop', 'compact', 'repair', 'rescue').required(),
  table: tableName.when('action', { is: Joi.valid('rename', 'copy'), then: Joi.required(), otherwise: Joi.forbidden() }),
  name: tableName.when('action', { is: Joi.valid('rename', 'copy'), then: Joi.required(), otherwise: Joi.forbidden() }),
  into: pathRequest.when('action', { is: Joi.valid('copy', 'rescue'), then: Joi.required(), otherwise: Joi.forbidden() }),
  isMove: forAction('copy', Joi.boolean()),
  tables: forAction('drop', Joi.array().items(tableName).min(1).max(500)),
};

/** What a job with tables came to. */
export interface TablesDone {
  readonly change: ChangeView | null;
  /** For the person: what was rescued, and what was not. */
  readonly notes: readonly string[];
}

/** What is not as OGC 12-128r17 asks. */
export interface GeodatabaseFinding {
  /** Number of the requirement; null: no rule of the standard, but good sense. */
  readonly requirement: number | null;
  readonly table: string | null;
  readonly message: string;
  readonly canRepair: boolean;
  /** Pages are damaged: what can be read can be rescued. */
  readonly isDamage: boolean;
}
