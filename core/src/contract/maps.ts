import Joi from 'joi';
import type { Field } from '../dataset/dataset.js';
import { CLASS_METHODS, MARKS, PLACEMENTS, type ClassMethod, type KeyValue, type Label, type LayerSymbol, type Look, type LookRule, type RasterLook, type ShapeKind } from '../look/look.js'; // prettier-ignore
import type { DraftLayer, MapDraft, MapViewpoint } from '../map/map-draft.js';
import type { LayerState, Reach } from '../map/layer-state.js';
import { pathRequest, type PathRequest } from './requests.js';
import type { CrsView } from './edits.js';
import type { PreviewView } from './sources.js';

export type { Label, LayerSymbol, Look, LookRule, RasterLook, ShapeKind, VectorLook } from '../look/look.js';
export type { DraftLayer, MapDraft } from '../map/map-draft.js';

const MOST_LAYERS = 2000;
const text = (most: number) => Joi.string().allow('').max(most);
const colour = Joi.string().pattern(/^#[0-9a-f]{6}$/i, 'a colour as #rrggbb');
const share = Joi.number().min(0).max(1);
const scale = Joi.number().positive().allow(null).default(null);
const crsCode = Joi.string().pattern(/^EPSG:\d{4,6}$/);

const symbol = Joi.object<LayerSymbol>({
  fill: colour.allow(null).required(),
  fillOpacity: share.required(),
  stroke: colour.allow(null).required(),
  strokeWidth: Joi.number().min(0).max(100).required(),
  strokeOpacity: share.required(),
  dash: Joi.array().items(Joi.number().min(0).max(1000)).max(20).allow(null).required(),
  mark: Joi.string().valid(...MARKS).required(), // prettier-ignore
  size: Joi.number().min(0).max(500).required(),
  picture: text(4096).allow(null).required(),
});
const entry = { title: text(400).required(), symbol: symbol.required() };
const value = Joi.alternatives(text(2000), Joi.number(), Joi.boolean(), Joi.valid(null));
const rule = Joi.object<LookRule>({
  title: text(400).required(),
  filter: text(4000).allow(null).required(),
  isElse: Joi.boolean().required(),
  minScale: scale,
  maxScale: scale,
  symbol: symbol.required(),
});
const rasterLook = Joi.object<RasterLook>({
  kind: Joi.valid('raster').required(),
  band: Joi.number().integer().min(1).max(65_535).required(),
  stretch: Joi.object({ from: Joi.number().required(), to: Joi.number().required() }).allow(null).required(),
  ramp: Joi.array()
    .items(Joi.object({ value: Joi.number().required(), colour: colour.required(), opacity: share.required() }))
    .min(1)
    .max(256)
    .allow(null)
    .required(),
  isStepped: Joi.boolean().required(),
  nodata: Joi.number().allow(null).required(),
});
export const lookSchema = Joi.alternatives<Look>(
  Joi.object({ kind: Joi.valid('one').required(), symbol: symbol.required() }),
  Joi.object({
    kind: Joi.valid('by-value').required(),
    field: text(400).required(),
    entries: Joi.array().items(Joi.object({ ...entry, value: value.required() })).max(1000).required(), // prettier-ignore
    other: symbol.allow(null).required(),
  }),
  Joi.object({
    kind: Joi.valid('by-class').required(),
    field: text(400).required(),
    method: Joi.string().valid(...CLASS_METHODS).required(), // prettier-ignore
    breaks: Joi.array().items(Joi.number()).min(2).max(257).required(),
    entries: Joi.array().items(Joi.object(entry)).min(1).max(256).required(),
  }),
  Joi.object({ kind: Joi.valid('rules').required(), rules: Joi.array().items(rule).min(1).max(1000).required() }),
  rasterLook,
);
const label = Joi.object<Label>({
  template: text(1000).required(),
  size: Joi.number().min(1).max(200).required(),
  colour: colour.required(),
  halo: Joi.object({ colour: colour.required(), width: Joi.number().min(0).max(50).required() })
    .allow(null)
    .required(),
  placement: Joi.string().valid(...PLACEMENTS).required(), // prettier-ignore
});
const draftLayer = Joi.object<DraftLayer>({
  id: Joi.string().max(2000).required(),
  title: text(400).required(),
  folder: text(400).allow(null).required(),
  active: Joi.boolean().required(),
  opacity: share.required(),
  minScale: scale,
  maxScale: scale,
  filter: text(4000).required(),
  label: label.allow(null).required(),
  look: lookSchema.allow(null).required(),
  source: text(8192).allow(null).required(),
});
export const mapDraft = Joi.object<MapDraft>({
  title: text(400).required(),
  summary: text(4000).required(),
  crs: crsCode.allow(null).required(),
  storedForm: Joi.string().valid('relative', 'absolute').allow(null).required(),
  view: Joi.object<MapViewpoint>({
    center: Joi.array().ordered(Joi.number().required(), Joi.number().required()).required(),
    scale: Joi.number().positive().required(),
  })
    .allow(null)
    .required(),
  layers: Joi.array().items(draftLayer).max(MOST_LAYERS).required(),
});

/** What the app knows of the data of a layer. */
export interface LayerDataView {
  /** Id of the dataset; null: there is none that can be read. */
  readonly dataset: string | null;
  readonly kind: ShapeKind | 'raster' | 'table' | null;
  readonly count: number | null;
  readonly fields: readonly Field[];
  readonly crs: string | null;
  readonly crsName: string | null;
  readonly pixel: readonly [number, number] | null;
  /** West, south, east, north in degrees; null: not known. */
  readonly degrees: readonly [number, number, number, number] | null;
  /** Of the data in its own CRS. */
  readonly bbox: readonly [number, number, number, number] | null;
}
export interface MapLayerView extends LayerDataView {
  readonly id: string;
  readonly key: string;
  readonly href: string | null;
  readonly stored: 'relative' | 'absolute' | 'service';
  readonly reach: Reach;
  readonly state: LayerState;
  readonly reason: string | null;
  readonly detail: string | null;
  readonly shownResolved: string | null;
  readonly link: string | null;
  readonly style: StyleView;
}
/** Where a layer's look comes from, and what of it is not as it was meant. */
export interface StyleView {
  readonly kind: 'none' | 'inline' | 'file';
  readonly href: string | null;
  readonly state: 'sound' | 'adrift' | 'unreadable' | null;
  readonly losses: readonly string[];
  /** Pictures that it names and that are not there. */
  readonly missing: readonly string[];
}
export interface MapDocView {
  /** From the root. */
  readonly path: string;
  /** Hash of the file as it was read. */
  readonly base: string;
  readonly draft: MapDraft;
  readonly layers: readonly MapLayerView[];
  readonly crs: MapCrsView | null;
  /** Unsaved work that was kept, and by whom; null: there is none. */
  readonly kept: { readonly draft: MapDraft; readonly base: string; readonly savedMs: number; readonly isOwn: boolean; readonly who: string } | null; // prettier-ignore
  /** Others who have this map open now. */
  readonly others: readonly EditorView[];
}
export interface MapCrsView extends CrsView {
  readonly proj4: string | null;
}
export interface EditorView {
  readonly who: string;
  readonly hasChanges: boolean;
}

const mapPath = Joi.string().max(4096).required();
/** One editor is one open page. */
const editor = Joi.string().guid().required();

export interface KeepDraftRequest {
  readonly path: string;
  readonly editor: string;
  readonly base: string;
  /** Null: the map is open, and nothing is unsaved. */
  readonly draft: MapDraft | null;
}
export const keepDraftRequest = Joi.object<KeepDraftRequest>({
  path: mapPath,
  editor,
  base: Joi.string().hex().length(64).required(),
  draft: mapDraft.allow(null).required(),
});
export interface KeptView {
  readonly others: readonly EditorView[];
  /** Hash of the file as it is now: another one where somebody saved it. */
  readonly base: string | null;
}

export interface SaveMapRequest {
  readonly path: string;
  readonly editor: string;
  readonly base: string;
  readonly draft: MapDraft;
  /** PNG, base64. */
  readonly thumbnail: string | null;
}
export const saveMapRequest = Joi.object<SaveMapRequest>({
  path: mapPath,
  editor,
  base: Joi.string().hex().length(64).required(),
  draft: mapDraft.required(),
  thumbnail: Joi.string().base64().max(2_000_000).allow(null).default(null),
});
export interface SavedView {
  readonly base: string;
  readonly changeId: string | null;
  readonly remembered: number;
}

/** How the records of a layer are told apart in its tiles. */
export interface LayerDrawing {
  readonly filter: string;
  readonly rules: readonly { readonly filter: string | null; readonly isElse: boolean }[];
  readonly label: string | null;
  readonly raster: RasterLook | null;
}
export interface LayerPictureRequest {
  readonly dataset: string;
  readonly crs: string | null;
  readonly drawing: LayerDrawing;
}
export const layerPictureRequest = Joi.object<LayerPictureRequest>({
  dataset: Joi.string().max(8192).required(),
  crs: crsCode.allow(null).required(),
  drawing: Joi.object<LayerDrawing>({
    filter: text(4000).required(),
    rules: Joi.array()
      .items(Joi.object({ filter: text(4000).allow(null).required(), isElse: Joi.boolean().required() }))
      .max(1000)
      .required(),
    label: text(1000).allow(null).required(),
    raster: rasterLook.allow(null).required(),
  }).required(),
});
export interface LayerPictureView extends PreviewView {
  /** Name of the drawing, for the tiles; null: a plain one. */
  readonly drawing: string | null;
  /** Rules that each class of records is drawn by: a feature of a tile says its class as `c`. */
  readonly classes: readonly (readonly number[])[];
  /** Records of each rule, and those that are not drawn. */
  readonly counts: readonly number[];
  readonly hidden: number;
  /** Values between which grey is stretched where no look says otherwise; null: it is no raster, or has colours. */
  readonly stretch: { readonly from: number; readonly to: number } | null;
}

export interface ClassesRequest {
  readonly dataset: string;
  readonly field: string;
  readonly method: Exclude<ClassMethod, 'given'> | 'values';
  readonly classes: number;
  readonly filter: string;
}
export const classesRequest = Joi.object<ClassesRequest>({
  dataset: Joi.string().max(8192).required(),
  field: Joi.string().max(400).required(),
  method: Joi.string().valid('equal', 'quantile', 'natural', 'values').required(),
  classes: Joi.number().integer().min(1).max(24).default(5),
  filter: text(4000).default(''),
});
export interface ClassesView {
  readonly breaks: readonly number[];
  /** The most frequent values, and how often each is there. */
  readonly values: readonly { readonly value: KeyValue; readonly count: number }[];
  /** There are more values than these. */
  readonly isCut: boolean;
  readonly counted: number;
}

/** What a map of some data could be drawn in. */
export interface CrsProposal {
  readonly crs: CrsView;
  readonly why: string;
  readonly method: string;
  /** Largest departure of lengths from the truth, over the extent, in parts per thousand; of areas likewise. */
  readonly lengthPerMille: number;
  readonly areaPerMille: number;
}
export interface CrsAdvice {
  /** What the layers themselves propose, and why. */
  readonly proposed: CrsProposal | null;
  /** Others that suit the extent, the least distortion first. */
  readonly others: readonly CrsProposal[];
  readonly degrees: readonly [number, number, number, number] | null;
}
export interface CrsAdviceRequest {
  readonly datasets: readonly string[];
}
export const crsAdviceRequest = Joi.object<CrsAdviceRequest>({
  datasets: Joi.array().items(Joi.string().max(8192)).max(MOST_LAYERS).required(),
});

export interface NewLayerView extends LayerDataView {
  readonly title: string;
  readonly href: string;
  /** The project that the data belongs to, where it is another one. */
  readonly otherProject: string | null;
  readonly reach: Reach;
}
export interface DatasetsRequest {
  /** The map that they are for, from the root. */
  readonly path: string;
  readonly datasets: readonly string[];
}
export const datasetsRequest = Joi.object<DatasetsRequest>({
  path: mapPath,
  datasets: Joi.array().items(Joi.string().max(8192)).min(1).max(500).required(),
});

/** A table of layers that a map is made from: title, path, table. */
export interface MapFromTableRequest {
  readonly title: string;
  readonly text: string;
  readonly apply: boolean;
}
export const mapFromTableRequest = Joi.object<MapFromTableRequest>({
  title: Joi.string().trim().min(1).max(200).required(),
  text: text(4_000_000).required(),
  apply: Joi.boolean().default(false),
});
export interface MapFromTableView {
  readonly rows: readonly {
    readonly title: string;
    readonly path: string;
    readonly table: string | null;
    readonly href: string | null;
    readonly state: LayerState | null;
    readonly why: string | null;
  }[];
  readonly map: string | null;
}

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
export const rehearsalRequest = Joi.object<RehearsalRequest>({
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
export type FixKind = 'relative' | 'bring-in' | 'respell' | 'shorten';
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

/** Data outside the project that somebody wants in a map: what it is, whose, and where it could be linked. */
export interface OutsideView {
  /** Real path of the file, and of its folder. */
  readonly path: string;
  readonly folder: PathRequest;
  readonly shownFolder: string;
  readonly datasets: readonly {
    readonly id: string;
    readonly name: string;
    readonly kind: LayerDataView['kind'];
    readonly count: number | null;
  }[];
  readonly reach: Reach;
  readonly otherProject: string | null;
  /** Of the file with its companions. */
  readonly bytes: number;
}

export interface WriteFileRequest {
  readonly at: PathRequest;
  readonly title: string;
  /** Base64. */
  readonly content: string;
}
export const writeFileRequest = Joi.object<WriteFileRequest>({
  at: pathRequest.required(),
  title: Joi.string().max(400).required(),
  content: Joi.string().base64().required(),
});
