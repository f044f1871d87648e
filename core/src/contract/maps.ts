import Joi from 'joi';
import type { Field } from '../dataset/dataset.js';
import type { ShapeKind } from '../look/look.js';
import type { LayerState, Reach } from '../map/layer-state.js';
import type { MapDraft } from '../map/map-draft.js';
import type { MapCrsView } from './crs.js';
import { mapDraft } from './map-draft.js';
import type { PathRequest } from './places.js';
import { text, objectOf } from './shapes.js';

/** What the app knows of the data of a layer. */
export interface LayerDataView {
  /** Id of the dataset; null: there is none that can be read. */
  readonly dataset: string | null;
  readonly kind: ShapeKind | 'raster' | 'table' | null;
  readonly count: number | null;
  readonly fields: readonly Field[];
  readonly crs: string | null;
  readonly crsName: string | null;
  /** Its positions can be told in another CRS: it has a code, or is computed from its text. */
  readonly isPlaced: boolean;
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
  readonly kept: {
    readonly draft: MapDraft;
    readonly base: string;
    readonly savedMs: number;
    readonly isOwn: boolean;
    readonly who: string;
  } | null;
  /** Others who have this map open now. */
  readonly others: readonly EditorView[];
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

export const keepDraftRequest = objectOf<KeepDraftRequest>({
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
  /** Name of a new file beside it, without its ending, that is written instead; null: the file itself is. */
  readonly as: string | null;
}

export const saveMapRequest = objectOf<SaveMapRequest>({
  path: mapPath,
  editor,
  base: Joi.string().hex().length(64).required(),
  draft: mapDraft.required(),
  thumbnail: Joi.string().base64().max(2_000_000).allow(null).default(null),
  as: Joi.string().max(200).allow(null).default(null),
});

export interface SavedView {
  /** Of the file that was written, from the root. */
  readonly path: string;
  readonly base: string;
  readonly changeId: string | null;
  readonly remembered: number;
}

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

export const datasetsRequest = objectOf<DatasetsRequest>({
  path: mapPath,
  datasets: Joi.array().items(Joi.string().max(8192)).min(1).max(500).required(),
});

/** A table of layers that a map is made from: title, path, table. */
export interface MapFromTableRequest {
  readonly title: string;
  readonly text: string;
  readonly apply: boolean;
}

export const mapFromTableRequest = objectOf<MapFromTableRequest>({
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
