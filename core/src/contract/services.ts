import Joi from 'joi';
import type { ServiceItem, ServiceTree } from '../service/service-tree.js';
import { urlOf, type ServiceKind } from '../service/service-address.js';
import type { ImportDone } from './geodatabases.js';
import type { ChangeView } from './journal.js';
import { objectOf } from './shapes.js';
import { type PathRequest, pathRequest } from './places.js';

/** How a server is told who asks. It comes in and never goes out again. */
export type SignInRequest =
  | { readonly kind: 'password'; readonly name: string; readonly password: string }
  | { readonly kind: 'key'; readonly as: 'query' | 'header'; readonly name: string; readonly key: string };

const signIn = Joi.alternatives(
  Joi.object({
    kind: Joi.string().valid('password').required(),
    name: Joi.string().max(400).required(),
    password: Joi.string().max(400).allow('').required(),
  }),
  Joi.object({
    kind: Joi.string().valid('key').required(),
    as: Joi.string().valid('query', 'header').required(),
    name: Joi.string()
      .pattern(/^[A-Za-z0-9_-]{1,80}$/, 'a name of letters, digits, - and _')
      .required(),
    key: Joi.string().max(2000).required(),
  }),
);

/** An address, or what people paste of one. */
const pasted = Joi.string().trim().min(1).max(2048);
const address = Joi.string()
  .max(2048)
  .custom((value: string, helpers) => (urlOf(value) ? value : helpers.message({ custom: 'That is no address of a server.' })));

/** What came of asking a service. */
interface AskedView {
  readonly atMs: number;
  readonly answered: boolean;
  readonly okMs: number | null;
  readonly why: string | null;
}

export interface ServiceView {
  /** Name of the link; null: layers draw on it, and nobody linked it. */
  readonly name: string | null;
  readonly kind: ServiceTree['kind'] | null;
  readonly url: string;
  /** Null: nobody asked. */
  readonly asked: AskedView | null;
  readonly signIn: 'password' | 'key' | null;
  readonly usedBy: readonly {
    readonly map: string;
    readonly mapTitle: string;
    readonly layer: string;
    readonly title: string;
    readonly href: string;
  }[];
  /** Where it says it stands now; null: it did not say so. */
  readonly movedTo: string | null;
}

export interface ServicesView {
  readonly services: readonly ServiceView[];
  /** The place that the project stands in. */
  readonly place: string;
  /** Hosts of one's own network that projects there may ask. */
  readonly hosts: readonly string[];
  /** Answers that are kept, and how many of them may be. */
  readonly kept: { readonly bytes: number; readonly limitBytes: number };
}

export interface FindServiceRequest {
  readonly address: string;
  readonly signIn: SignInRequest | null;
}
export const findServiceRequest = objectOf<FindServiceRequest>({ address: pasted.required(), signIn: signIn.allow(null).default(null) });

export interface FoundServiceView {
  readonly url: string;
  readonly kind: ServiceTree['kind'];
  readonly title: string;
  readonly description: string;
  readonly publisher: string | null;
  readonly items: number;
  readonly more: number;
  /** It was asked with a name and password, or a key. */
  readonly isSignedIn: boolean;
}

export interface TreeRequest {
  readonly url: string;
  readonly anew: boolean;
}
export const treeRequest = objectOf<TreeRequest>({ url: address.required(), anew: Joi.boolean().default(false) });

export interface ServiceTreeView {
  readonly tree: ServiceTree;
  readonly readMs: number;
  /** Layers of the project that draw on each thing, by its name. */
  readonly usedBy: Readonly<Record<string, readonly string[]>>;
}

export interface ServiceSearchRequest {
  readonly url: string;
  readonly words: string;
}
export const serviceSearchRequest = objectOf<ServiceSearchRequest>({
  url: address.required(),
  words: Joi.string().trim().min(1).max(400).required(),
});

/** Records that the server itself found. */
export interface ServiceSearchView {
  readonly items: readonly ServiceItem[];
  /** How many more it found at least. */
  readonly more: number;
}

export interface ServiceSignInRequest {
  readonly url: string;
  /** Null: what is known is forgotten. */
  readonly signIn: SignInRequest | null;
}
export const serviceSignInRequest = objectOf<ServiceSignInRequest>({ url: address.required(), signIn: signIn.allow(null).required() });

const box = Joi.string().pattern(/^-?[\d.]+(e[+-]?\d+)?(,-?[\d.]+(e[+-]?\d+)?){3}$/i, 'four numbers: west, south, east, north');

/** What is known of what a layer draws, from what the server told when it was asked; null members: it did not say. */
export interface ServiceLayerView {
  readonly href: string;
  /** `asking`: its server is asked now, and nobody waits for it here. */
  readonly state: 'known' | 'asking' | 'failed';
  /** A sentence, where it failed. */
  readonly why: string | null;
  readonly kind: ServiceKind | null;
  readonly crs: readonly string[];
  readonly degrees: readonly [number, number, number, number] | null;
  readonly attribution: string | null;
}

export interface ServiceLayersRequest {
  readonly layers: readonly string[];
}
export const serviceLayersRequest = objectOf<ServiceLayersRequest>({ layers: Joi.array().items(address).max(2000).required() });

/** A piece of a picture layer. The box has x before y. */
export interface PictureQuery {
  readonly layer: string;
  readonly crs: string;
  readonly box: string;
  readonly width: number;
  readonly height: number;
}
const side = Joi.number().integer().min(1).max(2048);
export const pictureQuery = objectOf<PictureQuery>({
  layer: address.required(),
  crs: Joi.string()
    .pattern(/^EPSG:\d{3,7}$/, 'EPSG and a number')
    .required(),
  box: box.required(),
  width: side.required(),
  height: side.required(),
});

export interface TileQuery {
  readonly layer: string;
  readonly z: number;
  readonly x: number;
  readonly y: number;
}
const step = Joi.number()
  .integer()
  .min(0)
  .max(2 ** 26);
export const tileQuery = objectOf<TileQuery>({
  layer: address.required(),
  z: Joi.number().integer().min(0).max(26).required(),
  x: step.required(),
  y: step.required(),
});

export interface FeaturesQuery {
  readonly layer: string;
  readonly box: string;
}
export const featuresQuery = objectOf<FeaturesQuery>({ layer: address.required(), box: box.required() });

export interface ServiceFeatures {
  /** A GeoJSON feature collection in degrees. */
  readonly document: { readonly type: string; readonly features: readonly unknown[] };
  /** There are more than are drawn. */
  readonly isPart: boolean;
}

/** Servers that stand in for those of others. */
export interface StandInsView {
  readonly address: string;
  /** The same behind a certificate that they signed themselves; null: not started. */
  readonly secure: string | null;
  readonly switches: Readonly<Record<string, boolean>>;
}

/** A copy of a collection, or of a part of it, in a geodatabase. */
export interface ServiceCopyRequest {
  readonly layer: string;
  /** Only what lies in it, in degrees: west, south, east, north; null: all of it. */
  readonly degrees: readonly number[] | null;
  readonly into: PathRequest;
  /** '' : named after the collection. */
  readonly table: string;
  readonly crs: string | null;
}
export const serviceCopyRequest = objectOf<ServiceCopyRequest>({
  layer: address.required(),
  degrees: Joi.array().items(Joi.number()).length(4).allow(null).default(null),
  into: pathRequest.required(),
  table: Joi.string().allow('').max(120).default(''),
  crs: Joi.string()
    .pattern(/^EPSG:\d{3,7}$/)
    .allow(null)
    .default(null),
});

/** A collection that was copied is copied once more, to take the place of its table. */
export interface CopyAnewRequest {
  /** Id of the table. */
  readonly dataset: string;
  /** It takes the table's place; else it is only compared. */
  readonly takes: boolean;
}
export const copyAnewRequest = objectOf<CopyAnewRequest>({
  dataset: Joi.string().max(8192).required(),
  takes: Joi.boolean().required(),
});

export interface ServiceCopyDone {
  /** Records that the server said it has; null: it did not say. */
  readonly told: number | null;
  /** Records that came. */
  readonly came: number;
  /** It went on from what was kept of an earlier try: so many records. */
  readonly resumedAt: number;
  /** Null: it was only compared. */
  readonly import: ImportDone | null;
  /** Against the table whose place it takes; null: it is a table of its own. */
  readonly newer: NewerDataset | null;
}

/** A file is fetched by its address. */
export interface FetchRequest {
  readonly address: string;
  readonly signIn: SignInRequest | null;
}
export const fetchRequest = objectOf<FetchRequest>({ address: pasted.required(), signIn: signIn.allow(null).default(null) });

export interface FetchDone {
  /** The arrival that it became. */
  readonly arrival: string;
  readonly name: string;
  readonly bytes: number;
  readonly sha256: string;
  /** It went on from what was kept of an earlier try: so many bytes. */
  readonly resumedAt: number;
}

/** How an address that is written down stands to what was fetched from it. */
export interface EditionLook {
  readonly address: string;
  /** Of a collection the part that was copied; null: all of it, or a file. */
  readonly degrees: readonly number[] | null;
  readonly state: 'unchanged' | 'changed' | 'gone' | 'not-told' | 'failed';
  /** A sentence: what was compared, or why it is not known. */
  readonly why: string;
  readonly bytesBefore: number | null;
  readonly bytesNow: number | null;
  /** When it changed, as the server tells it. */
  readonly changed: string | null;
}

export interface LookEditionsRequest {
  /** [] : all that are written down. */
  readonly addresses: readonly string[];
}
export const lookEditionsRequest = objectOf<LookEditionsRequest>({ addresses: Joi.array().items(address).max(2000).default([]) });

/** One dataset against what came for it. */
export interface NewerDataset {
  /** Id, and name as people call it. */
  readonly id: string;
  readonly name: string;
  readonly before: DatasetFacts;
  /** Null: nothing that came is its newer edition. */
  readonly now: DatasetFacts | null;
  /** Fields that came, went, and have another type. */
  readonly fields: { readonly added: readonly string[]; readonly gone: readonly string[]; readonly changed: readonly string[] };
  readonly usedBy: number;
  /** It is byte for byte what is here. */
  readonly isSame: boolean;
}
export interface DatasetFacts {
  readonly records: number | null;
  /** Null: it is one table of several. */
  readonly bytes: number | null;
  readonly bbox: readonly [number, number, number, number] | null;
  readonly crs: string | null;
}

export interface NewerRequest {
  /** Id of what was fetched. */
  readonly arrival: string;
  readonly address: string;
}
export const newerRequest = objectOf<NewerRequest>({ arrival: Joi.string().uuid().required(), address: address.required() });

/** A dataset that is written down with an address and is not here. */
export interface StayedOutView {
  /** From the root. */
  readonly path: string;
  readonly address: string;
  readonly title: string;
  readonly publisher: string;
  /** Its checksums are written down: what comes can be held against them. */
  readonly isTold: boolean;
}

export interface PutBackRequest {
  /** [] : all of them. */
  readonly addresses: readonly string[];
  /** What is no longer as it was when it stayed out is put there, too. */
  readonly takesOther: boolean;
}
export const putBackRequest = objectOf<PutBackRequest>({
  addresses: Joi.array().items(address).max(2000).default([]),
  takesOther: Joi.boolean().default(false),
});

export interface PutBackRow {
  /** From the root. */
  readonly path: string;
  readonly address: string;
  /**
   * `as-it-was`: every checksum is that of what stayed out. `not-told`: nobody wrote one down, and it was put there. `other`: another
   * edition, put there since that was wanted. `left`: another edition, not put there. `not-in-it`: what came has no such dataset.
   */
  readonly state: 'as-it-was' | 'other' | 'not-told' | 'left' | 'not-in-it' | 'failed';
  /** Of one that failed. */
  readonly why: string | null;
  /** Files that stood beside it, and did not come. */
  readonly missing: readonly string[];
}
export interface PutBackDone {
  readonly rows: readonly PutBackRow[];
  readonly changes: readonly ChangeView[];
}
