import Joi from 'joi';
import type { Field } from '../dataset/dataset.js';
import { objectOf, recordId, text } from './shapes.js';

export const ROW_TESTS = ['contains', '=', '≠', '<', '≤', '>', '≥', 'empty', 'filled'] as const;

export type RowTest = (typeof ROW_TESTS)[number];

/** What the value of one field must be. `empty` and `filled` take no value. */
export interface RowCondition {
  readonly field: string;
  readonly test: RowTest;
  readonly value: string;
}

/** Part of the records of a dataset, in an order. */
export interface RowsRequest {
  /** Id of the dataset. */
  readonly dataset: string;
  /** Null: as the file has them. */
  readonly sort: { readonly field: string; readonly isDescending: boolean } | null;
  /** Text that some field must contain, in any case. */
  readonly find: string;
  readonly where: readonly RowCondition[];
  /** CQL2 text, as the filter of a layer has it; '' takes every record. */
  readonly filter: string;
  /** Id of a record whose place in this order is wanted; null: of none. */
  readonly seek: number | null;
  readonly from: number;
  readonly count: number;
}

export const rowsRequest = objectOf<RowsRequest>({
  dataset: Joi.string().max(8192).required(),
  sort: Joi.object({ field: Joi.string().max(400).required(), isDescending: Joi.boolean().required() })
    .allow(null)
    .default(null),
  find: Joi.string().allow('').max(400).default(''),
  where: Joi.array()
    .items(
      Joi.object({
        field: Joi.string().max(400).required(),
        test: Joi.string()
          .valid(...ROW_TESTS)
          .required(),
        value: Joi.string().allow('').max(400).default(''),
      }),
    )
    .max(20)
    .default([]),
  filter: text(4000).default(''),
  seek: recordId.allow(null).default(null),
  from: Joi.number().integer().min(0).default(0),
  count: Joi.number().integer().min(1).max(500).default(200),
});

/** A value as it is shown: whole numbers too large for JSON are text, bytes are told by their number. */
export type ShownValue = string | number | boolean | null;

export interface RowsPage {
  readonly fields: readonly Field[];
  /** Records that meet the conditions, and all. */
  readonly found: number;
  readonly all: number;
  /** Place of the record that was sought among those that are found, from 0; null: none was sought, or it is not among them. */
  readonly at: number | null;
  /** Key of the row (the record's number where the file has none), id of its record, and its values in the order of the fields. */
  readonly rows: readonly { readonly key: number; readonly id: number; readonly values: readonly ShownValue[] }[];
}
