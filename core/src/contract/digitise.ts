import Joi from 'joi';
import type { Field, FieldType } from '../dataset/dataset.js';
import { type PathRequest, pathRequest } from './places.js';
import type { ShownValue } from './rows.js';
import { epsgCode, objectOf } from './shapes.js';

/** Shapes that can be drawn, as simple features call them. */
export const DRAWN_KINDS = ['Point', 'LineString', 'Polygon'] as const;

export type DrawnKind = (typeof DRAWN_KINDS)[number];

const NEW_FORMATS = ['geopackage', 'shapefile', 'geojson'] as const;

export type NewFormat = (typeof NEW_FORMATS)[number];

export const NEW_FIELD_TYPES = ['text', 'integer', 'real', 'boolean', 'date'] as const satisfies readonly FieldType[];

/** GeoJSON geometry (RFC 7946, 3.1) in the CRS of the map, x east. */
export interface DrawnGeometry {
  readonly type: string;
  readonly coordinates: unknown;
}

/** One record of a dataset as it is edited. */
export interface EditableRecord {
  readonly id: number;
  readonly geometry: DrawnGeometry | null;
  readonly values: readonly ShownValue[];
}

export interface EditableView {
  readonly fields: readonly Field[];
  readonly records: readonly EditableRecord[];
  /** State of its files: edits that were made from another one are refused. */
  readonly state: string;
  readonly kind: DrawnKind | null;
  /** It stands among the originals: a working copy is offered first. */
  readonly isOriginal: boolean;
  /** It cannot be edited here, and why; null: it can. */
  readonly why: string | null;
}

export interface EditableRequest {
  readonly dataset: string;
  readonly crs: string;
}

export const editableRequest = objectOf<EditableRequest>({ dataset: Joi.string().max(8192).required(), crs: epsgCode.required() });

export interface NewDataset {
  readonly format: NewFormat;
  /** Main file; of a geopackage the container, which may be there. */
  readonly at: PathRequest;
  /** Name of the table in a container. */
  readonly table: string;
  readonly kind: DrawnKind;
  readonly fields: readonly Field[];
}

/** A column that is made. */
type NewField = Omit<Field, 'writtenAs' | 'isFeatureId'>;

/** What was drawn and edited, to be saved as one change. */
export interface DigitiseRequest {
  /** Id of the dataset that is edited; null: a new one is made. */
  readonly dataset: string | null;
  readonly create: NewDataset | null;
  /** CRS of the coordinates, that of the map. */
  readonly crs: string;
  readonly state: string;
  readonly newFields: readonly NewField[];
  /** Values in the order of the fields, new ones behind. */
  readonly added: readonly { readonly geometry: DrawnGeometry | null; readonly values: readonly ShownValue[] }[];
  /** Geometry left out: the shape is as it was. */
  readonly changed: readonly { readonly id: number; readonly geometry?: DrawnGeometry | null; readonly values: readonly ShownValue[] }[];
  readonly removed: readonly number[];
}

const field = objectOf<NewField>({
  name: Joi.string().trim().min(1).max(60).required(),
  type: Joi.string()
    .valid(...NEW_FIELD_TYPES)
    .required(),
});

const value = Joi.alternatives(Joi.string().allow('').max(100_000), Joi.number(), Joi.boolean(), Joi.valid(null));

const values = Joi.array().items(value).max(2000);

const geometry = objectOf<DrawnGeometry>({ type: Joi.string().max(30).required(), coordinates: Joi.array().required() }).allow(null);

export const digitiseRequest = objectOf<DigitiseRequest>({
  dataset: Joi.string().max(8192).allow(null).required(),
  create: objectOf<NewDataset>({
    format: Joi.string()
      .valid(...NEW_FORMATS)
      .required(),
    at: pathRequest.required(),
    table: Joi.string().allow('').max(200).default(''),
    kind: Joi.string()
      .valid(...DRAWN_KINDS)
      .required(),
    fields: Joi.array().items(field).max(200).required(),
  })
    .allow(null)
    .required(),
  crs: epsgCode.required(),
  state: Joi.string().allow('').max(4000).default(''),
  newFields: Joi.array().items(field).max(100).default([]),
  added: Joi.array()
    .items(Joi.object({ geometry: geometry.required(), values: values.required() }))
    .max(20_000)
    .default([]),
  changed: Joi.array()
    .items(Joi.object({ id: Joi.number().integer().required(), geometry, values: values.required() }))
    .max(20_000)
    .default([]),
  removed: Joi.array().items(Joi.number().integer()).max(20_000).default([]),
});

export interface DigitisedView {
  /** Id of the dataset. */
  readonly dataset: string;
  readonly records: number;
  readonly changeId: string | null;
}
