import type { Field } from '../dataset/dataset.js';
import type { Condition } from '../filter/expression.js';

/** A value of a field: text and times as text, whole numbers beyond 2^53 as bigint. */
export type Value = string | number | bigint | boolean | Uint8Array | null;

/**
 * One record: its shape as ISO well-known binary in the dataset's CRS (x is east or longitude), and its values. The bytes of
 * the shape are good until the next record is asked for: whoever keeps them copies them.
 */
export interface Feature {
  /** Position in the file from 0, or the key of its row. */
  readonly id: number;
  readonly geometry: Uint8Array | null;
  /** In the order of the stream's fields. */
  readonly values: readonly Value[];
}

/** The records of a dataset, read as they are asked for, in bounded memory. */
export interface FeatureStream {
  readonly fields: readonly Field[];
  readonly features: Iterable<Feature>;
  /** How many shapes have had arcs so far, which became chords. Left out: there are none in this format. */
  readonly straightened?: () => number;
}

/** What is not wanted is not decoded. */
export interface Wanted {
  readonly geometry: boolean;
  /** Arcs stay arcs; otherwise they become chords, which is all that most can draw or hold (`straightWkb`). */
  readonly curves?: 'kept';
  readonly values: boolean;
  /** Records that surely do not meet it may be left out; those that come have to be tested all the same. */
  readonly hint?: Condition;
  /** Records by their ids, the last one not included. Only formats that `takesRange` names look at it. */
  readonly range?: { readonly from: number; readonly to: number };
}
export const EVERYTHING: Wanted = { geometry: true, values: true };
