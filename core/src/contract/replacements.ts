import Joi from 'joi';
import type { FactsView } from './mend.js';
import { type PathRequest, pathRequest } from './places.js';
import { objectOf } from './shapes.js';

/** Other data for a layer, on purpose: what is asked before anything is written. */
export interface LookReplacementRequest {
  readonly key: string;
  /** A dataset's main file; null: what stands where the layer's data was recorded. */
  readonly target: PathRequest | null;
  readonly table: string | null;
}

const layerKey = Joi.string().max(8192).required();

const tableName = Joi.string().max(400).allow(null).default(null);

export const lookReplacementRequest = objectOf<LookReplacementRequest>({
  key: layerKey,
  target: pathRequest.allow(null).required(),
  table: tableName,
});

export interface ReplaceRequest {
  /** Layers that get the data. */
  readonly layers: readonly string[];
  readonly target: PathRequest | null;
  readonly table: string | null;
  /** For every field that filter, label or style of these layers use: the field of the new data. */
  readonly fields: Readonly<Record<string, string>>;
}

export const replaceRequest = objectOf<ReplaceRequest>({
  layers: Joi.array().items(layerKey).min(1).max(50_000).required(),
  target: pathRequest.allow(null).required(),
  table: tableName,
  fields: Joi.object().pattern(Joi.string().max(400), Joi.string().max(400)).max(5000).default({}),
});

export interface FieldToMap {
  readonly field: string;
  /** Of the data that the layer remembers; null: not known. */
  readonly type: string | null;
  readonly uses: readonly ('filter' | 'label' | 'style')[];
  /** The field of the new data that is proposed; null: the person says. */
  readonly proposed: string | null;
}

export interface ReplacementView {
  /** More than one: a table is to be chosen first, and nothing else is told yet. */
  readonly tables: readonly string[];
  readonly shownPath: string;
  readonly facts: FactsView | null;
  readonly fields: readonly { readonly name: string; readonly type: string }[];
  readonly needs: readonly FieldToMap[];
  /** What will not be as before, a sentence each. */
  readonly warnings: readonly string[];
  /** The layer first, then all others that drew the same data; `needs`: fields that only that one uses must be mapped, too. */
  readonly layers: readonly {
    readonly key: string;
    readonly title: string;
    readonly mapTitle: string;
    readonly before: string | null;
    readonly after: string;
    readonly needs: readonly string[];
  }[];
}
