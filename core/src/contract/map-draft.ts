import Joi from 'joi';
import {
  CLASS_METHODS,
  MARKS,
  PLACEMENTS,
  RESAMPLINGS,
  type Label,
  type LayerSymbol,
  type Look,
  type LookRule,
  type RasterLook,
} from '../look/look.js';
import type { DraftLayer, MapDraft, MapViewpoint, NamedView } from '../map/map-draft.js';
import { bandNumber, epsgCode, objectOf, text, threeBands } from './shapes.js';
export type { DraftLayer, MapDraft, NamedView } from '../map/map-draft.js';

export const MOST_LAYERS = 2000;

const colour = Joi.string().pattern(/^#[0-9a-f]{6}$/i, 'a colour as #rrggbb');

const share = Joi.number().min(0).max(1);

const scale = Joi.number().positive().allow(null).default(null);

const symbol = objectOf<LayerSymbol>({
  fill: colour.allow(null).required(),
  fillOpacity: share.required(),
  stroke: colour.allow(null).required(),
  strokeWidth: Joi.number().min(0).max(100).required(),
  strokeOpacity: share.required(),
  dash: Joi.array().items(Joi.number().min(0).max(1000)).max(20).allow(null).required(),
  mark: Joi.string()
    .valid(...MARKS)
    .required(),
  size: Joi.number().min(0).max(500).required(),
  picture: text(4096).allow(null).required(),
});

const entry = { title: text(400).required(), symbol: symbol.required() };

const value = Joi.alternatives(text(2000), Joi.number(), Joi.boolean(), Joi.valid(null));

const rule = objectOf<LookRule>({
  title: text(400).required(),
  filter: text(4000).allow(null).required(),
  isElse: Joi.boolean().required(),
  minScale: scale,
  maxScale: scale,
  symbol: symbol.required(),
});

export const rasterLook = objectOf<RasterLook>({
  kind: Joi.string().valid('raster').required(),
  band: bandNumber.required(),
  bands: threeBands.allow(null).default(null),
  stretch: Joi.object({ from: Joi.number().required(), to: Joi.number().required() }).allow(null).required(),
  ramp: Joi.array()
    .items(Joi.object({ value: Joi.number().required(), colour: colour.required(), opacity: share.required() }))
    .min(1)
    .max(256)
    .allow(null)
    .required(),
  isStepped: Joi.boolean().required(),
  nodata: Joi.number().allow(null).required(),
  resampling: Joi.string()
    .valid(...RESAMPLINGS)
    .default('nearest'),
});

export const lookSchema = Joi.alternatives<Look>(
  Joi.object({ kind: Joi.valid('one').required(), symbol: symbol.required() }),
  Joi.object({
    kind: Joi.valid('by-value').required(),
    field: text(400).required(),
    entries: Joi.array()
      .items(Joi.object({ ...entry, value: value.required() }))
      .max(1000)
      .required(),
    other: symbol.allow(null).required(),
  }),
  Joi.object({
    kind: Joi.valid('by-class').required(),
    field: text(400).required(),
    method: Joi.string()
      .valid(...CLASS_METHODS)
      .required(),
    breaks: Joi.array().items(Joi.number()).min(2).max(257).required(),
    entries: Joi.array().items(Joi.object(entry)).min(1).max(256).required(),
  }),
  Joi.object({ kind: Joi.valid('rules').required(), rules: Joi.array().items(rule).min(1).max(1000).required() }),
  rasterLook,
);

export const labelSchema = objectOf<Label>({
  template: text(1000).required(),
  size: Joi.number().min(1).max(200).required(),
  colour: colour.required(),
  halo: Joi.object({ colour: colour.required(), width: Joi.number().min(0).max(50).required() })
    .allow(null)
    .required(),
  placement: Joi.string()
    .valid(...PLACEMENTS)
    .required(),
});

const draftLayer = objectOf<DraftLayer>({
  id: Joi.string().max(2000).required(),
  title: text(400).required(),
  folder: text(400).allow(null).required(),
  active: Joi.boolean().required(),
  opacity: share.required(),
  minScale: scale,
  maxScale: scale,
  filter: text(4000).required(),
  label: labelSchema.allow(null).required(),
  look: lookSchema.allow(null).required(),
  source: text(8192).allow(null).required(),
});

export const mapDraft = objectOf<MapDraft>({
  title: text(400).required(),
  summary: text(4000).required(),
  crs: epsgCode.allow(null).required(),
  storedForm: Joi.string().valid('relative', 'absolute').allow(null).required(),
  view: objectOf<MapViewpoint>({
    center: Joi.array().ordered(Joi.number().required(), Joi.number().required()).required(),
    scale: Joi.number().positive().required(),
  })
    .allow(null)
    .required(),
  views: Joi.array()
    .items(
      objectOf<NamedView>({
        name: text(200).min(1).required(),
        at: Joi.array().ordered(Joi.number().min(-180).max(180).required(), Joi.number().min(-90).max(90).required()).required(),
        scale: Joi.number().positive().required(),
      }),
    )
    .max(200)
    .unique('name')
    .default([]),
  layers: Joi.array().items(draftLayer).max(MOST_LAYERS).required(),
});
