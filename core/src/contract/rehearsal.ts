import Joi from 'joi';
import type { LayerState, Reach } from '../map/layer-state.js';
import { type PathRequest, pathRequest } from './places.js';
import { objectOf } from './shapes.js';

/** What is to be worked out of a move that is not made. */
export interface RehearsalRequest {
  /** From the root; null: all maps of the project. */
  readonly map: string | null;
  /** A folder in a place, or a path of another machine (`E:\\work\\study`); null: the root stays. */
  readonly to: PathRequest | string | null;
  readonly isCopy: boolean;
  /** Only the root is there: it is opened on another machine. */
  readonly isElsewhere: boolean;
  readonly without: readonly string[];
  readonly drives: readonly { readonly place: string; readonly names: readonly string[] }[];
  readonly isStrict: boolean;
  readonly hasPathLimit: boolean;
}

export const rehearsalRequest = objectOf<RehearsalRequest>({
  map: Joi.string().max(4096).allow(null).default(null),
  to: Joi.alternatives(pathRequest, Joi.string().max(4096)).allow(null).default(null),
  isCopy: Joi.boolean().default(false),
  isElsewhere: Joi.boolean().default(false),
  without: Joi.array().items(Joi.string().max(80)).max(50).default([]),
  drives: Joi.array()
    .items(Joi.object({ place: Joi.string().max(80).required(), names: Joi.array().items(Joi.string().max(400)).max(10).required() }))
    .max(50)
    .default([]),
  isStrict: Joi.boolean().default(false),
  hasPathLimit: Joi.boolean().default(false),
});

type FixKind = 'relative' | 'bring-in' | 'respell' | 'shorten';

export interface RehearsedView {
  readonly key: string;
  /** From the root. */
  readonly map: string;
  readonly mapTitle: string;
  readonly layer: string;
  readonly title: string;
  readonly href: string | null;
  readonly stored: 'relative' | 'absolute' | 'service';
  readonly reach: Reach;
  readonly before: LayerState;
  readonly after: LayerState;
  readonly reason: string | null;
  readonly detail: string | null;
  /** Where it leads then, as people read it. */
  readonly leadsTo: string | null;
  readonly isBroken: boolean;
  readonly fix: FixKind | null;
  /** A style in a file of its own that would not be there then; the layer would be drawn plainly. */
  readonly lostStyle: string | null;
}

export interface RehearsalView {
  /** The worst first. */
  readonly layers: readonly RehearsedView[];
  readonly broken: number;
  readonly sound: number;
  readonly damaged: readonly { readonly path: string; readonly message: string }[];
}
