import Joi from 'joi';
import { isUnsafePath } from '../address/unsafe-path.js';
import type { EditionRow, EditionState, TakeOverOrder } from '../bundle/compare-editions.js';
import type { SendChoices } from '../bundle/send-choices.js';
import type { LayerState } from '../map/layer-state.js';
import type { FolderPlan } from '../project/folder-plan.js';
import { ROLES, type Role } from '../project/roles.js';
import { type PathRequest, pathRequest } from './places.js';
import { planFolders } from './plans.js';
import { objectOf } from './shapes.js';

interface UseView {
  readonly map: string;
  readonly layer: string;
}

/** A folder of the bundle, or a file in it, as a row of its tree. */
export interface ContentView {
  /** From the payload's top. */
  readonly path: string;
  /** Where it stands in the bundle as it is, before it is arranged; empty: a folder, or made for the bundle. */
  readonly now: string;
  readonly files: number;
  readonly isFolder: boolean;
  readonly bytes: number;
  /** Of a folder: of the first thing in it. */
  readonly from: 'inside' | 'along' | 'added' | 'made';
  readonly role: Role;
  readonly uses: readonly UseView[];
}

export interface ToBringView {
  /** Names it in `along`. */
  readonly id: string;
  readonly shown: string;
  readonly kind: 'data' | 'style' | 'picture';
  readonly files: number;
  readonly bytes: number;
  readonly uses: readonly UseView[];
  readonly to: string | null;
}

export interface SendCheckView {
  readonly check: 'names' | 'layers' | 'origins' | 'licences' | 'personal' | 'unsaved' | 'secrets' | 'sheets';
  readonly path: string;
  readonly why: string;
  readonly isNote: boolean;
  readonly fix: 'names' | 'mend' | 'along' | 'origin' | 'save' | 'quality' | null;
}

interface CarrierView {
  readonly name: string;
  readonly fits: boolean;
  readonly why: string;
  readonly limitBytes: number | null;
}

interface MapPageView {
  /** From the root. */
  readonly map: string;
  readonly title: string;
  /** When it was drawn, and the layers that are not on it; null: none was drawn of the map as it stands. */
  readonly drawn: { readonly ms: number; readonly without: readonly string[] } | null;
}

/** A page that was drawn of a map; its bytes come as the body. */
export interface MapPageRequest {
  readonly path: string;
  /** Hash of the map's file as it was drawn. */
  readonly base: string;
  /** Titles of layers that are not on it. */
  readonly without: readonly string[];
}

export interface PackPreview {
  readonly suggested: PathRequest;
  readonly files: number;
  readonly bytes: number;
  /** How large it will be packed: a guess, from what the kinds of files usually come to. */
  readonly packedBytes: number;
  /** Folders, and files where there are not too many. */
  readonly contents: readonly ContentView[];
  readonly outside: readonly ToBringView[];
  readonly services: readonly { readonly title: string; readonly address: string; readonly map: string }[];
  /** Of maps that draw on servers, where their pictures are wanted. */
  readonly pages: readonly MapPageView[];
  readonly toFetch: readonly { readonly path: string; readonly address: string }[];
  readonly leftOut: readonly { readonly path: string; readonly why: string }[];
  readonly checks: readonly SendCheckView[];
  readonly layers: readonly {
    readonly map: string;
    readonly id: string;
    readonly title: string;
    readonly state: LayerState;
    readonly detail: string | null;
  }[];
  readonly maps: readonly { readonly path: string; readonly title: string }[];
  readonly rewritten: number;
  readonly carriers: readonly CarrierView[];
}

/** What a person chose; files to add as they name them. */
export interface SendRequest extends Omit<SendChoices, 'arrange'> {
  readonly arrange: Pick<FolderPlan, 'title' | 'folders'> | null;
  readonly added: readonly PathRequest[];
}

const path = Joi.string().min(1).max(4096);
const paths = Joi.array().items(path).max(10_000);
/** A folder of the bundle. */
const inBundle = path.custom((value: string, helpers) =>
  isUnsafePath(value) ? helpers.message({ custom: `"${value}" leads out of the bundle` }) : value,
);

export const sendRequest = objectOf<SendRequest>({
  what: Joi.string().valid('all', 'used').required(),
  maps: paths.allow(null).required(),
  withoutRoles: Joi.array()
    .items(Joi.string().valid(...ROLES))
    .required(),
  without: Joi.array().items(Joi.string().min(1).max(400)).max(200).required(),
  notBefore: Joi.string()
    .pattern(/^\d{4}-\d{2}-\d{2}$/, 'a day, as 2026-03-14')
    .allow(null)
    .required(),
  along: Joi.alternatives(Joi.string().valid('all', 'none'), paths).required(),
  leaveFetchable: Joi.boolean().required(),
  arrange: Joi.object({
    title: Joi.string().min(1).max(200).required(),
    folders: planFolders.min(1).required(),
  })
    .allow(null)
    .required(),
  placings: Joi.array()
    .items(Joi.object({ from: path.required(), to: inBundle.required() }))
    .max(2000)
    .required(),
  tables: Joi.string().valid('whole', 'used').required(),
  gathers: Joi.boolean().required(),
  looksBeside: Joi.boolean().required(),
  leavesPictures: Joi.boolean().default(false),
  layer: Joi.object({ map: path.required(), id: path.required() }).allow(null).required(),
  rootCharacters: Joi.number().integer().min(1).max(4000).required(),
  added: Joi.array().items(pathRequest).max(200).required(),
});

export interface PackRequest {
  readonly out: PathRequest;
  /** A folder at a place, file by file, instead of a zip. */
  readonly asFolder: boolean;
  readonly send: SendRequest;
}

export const packRequest = objectOf<PackRequest>({
  out: pathRequest.required(),
  asFolder: Joi.boolean().required(),
  send: sendRequest.required(),
});

/** What was chosen last for a project, null: nothing was sent yet; and the plans that ship. */
export interface SendMemory {
  readonly send: SendRequest | null;
  readonly method: string;
  readonly plans: readonly FolderPlan[];
}

export interface BundleRequest {
  readonly bundle: PathRequest;
}
export const bundleRequest = objectOf<BundleRequest>({ bundle: pathRequest.required() });

/** What a bundle says of itself, and the projects here that it is an edition of. */
export interface BundleView {
  readonly title: string;
  readonly name: string;
  readonly files: number;
  readonly bytes: number;
  readonly bagged: string;
  readonly software: string;
  readonly receipt: { readonly sentBy: string; readonly made: string } | null;
  readonly maps: readonly { readonly path: string; readonly title: string; readonly layers: number }[];
  readonly services: readonly { readonly title: string; readonly address: string }[];
  readonly drives: readonly { readonly name: string; readonly layers: number }[];
  readonly readMe: string;
  readonly findings: readonly { readonly path: string; readonly problem: string }[];
  readonly here: readonly { readonly key: string; readonly title: string; readonly root: string }[];
}

export interface EditionRequest extends BundleRequest {
  readonly key: string;
}
export const editionRequest = objectOf<EditionRequest>({ bundle: pathRequest.required(), key: Joi.string().max(40).required() });

export interface EditionView {
  /** When it was sent or received last, and as what; null: what was here then is not known. */
  readonly before: { readonly ms: number; readonly bundle: string } | null;
  readonly counts: Readonly<Record<EditionState, number>>;
  /** The files that are not the same; the first of them where there are very many. */
  readonly rows: readonly EditionRow[];
}

export interface TakeOverRequest extends EditionRequest, TakeOverOrder {}
export const takeOverRequest = objectOf<TakeOverRequest>({
  bundle: pathRequest.required(),
  key: Joi.string().max(40).required(),
  onConflict: Joi.string().valid('ours', 'theirs').required(),
  removes: Joi.boolean().required(),
});

export interface ReceiveRequest {
  readonly bundle: PathRequest;
  readonly into: PathRequest;
  /** What is not right stays out, told by name; the rest is received. */
  readonly setAside: boolean;
}

export const receiveRequest = objectOf<ReceiveRequest>({
  bundle: pathRequest.required(),
  into: pathRequest.required(),
  setAside: Joi.boolean().default(false),
});

/** A bundle that was made and read back. */
export interface PackedView {
  readonly file: string;
  readonly bytes: number;
  readonly payload: { readonly files: number; readonly bytes: number };
  readonly out: PathRequest;
  readonly carriers: readonly CarrierView[];
}

/** A bundle that came in. Without files, nothing was unpacked; with findings beside them, those files were set aside. */
export interface ArrivedView {
  readonly root: string;
  readonly files: number;
  readonly bytes: number;
  readonly key: string | null;
  readonly layers: readonly { readonly title: string; readonly state: LayerState; readonly reason?: string }[];
  /** Datasets that stayed out, and can be fetched from their publishers. */
  readonly stayedOut: number;
  readonly findings: readonly { readonly path: string; readonly problem: string }[];
}
