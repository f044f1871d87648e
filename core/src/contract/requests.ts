import Joi from 'joi';

/** Shapes that come over HTTP, each written once: its schema, and the type that the schema checks. */

const placeName = Joi.string().trim().min(1).max(80).required();
/** Path below a place, `/` as separator; empty is the place itself. What it may hold is checked again at use. */
const pathBelow = Joi.string().allow('').max(4096).required();

export interface PathRequest {
  readonly place: string;
  readonly path: string;
}
export const pathRequest = Joi.object<PathRequest>({ place: placeName, path: pathBelow });

export interface PlaceRequest {
  readonly name: string;
  readonly folder: string;
  readonly driveNames: readonly string[];
}
export const placeRequest = Joi.object<PlaceRequest>({
  name: Joi.string()
    .trim()
    .min(1)
    .max(80)
    .pattern(/^[\p{L}\p{N}][\p{L}\p{N} _.-]*$/u, 'letters, digits, blank, point, dash and underscore')
    .required(),
  folder: Joi.string().min(1).max(4096).required(),
  driveNames: Joi.array().items(Joi.string().max(400)).max(20).default([]),
});

export interface DriveNameRequest {
  readonly driveName: string;
}
export const driveNameRequest = Joi.object<DriveNameRequest>({ driveName: Joi.string().min(2).max(400).required() });

/** How far is looked by itself: what is near, or the known places too while something is not explained. */
export type MendReach = 'near' | 'places';
export interface SearchRequest {
  /** Folders looked in beside those of the project. */
  readonly search: readonly PathRequest[];
  readonly reach: MendReach;
}
const searched = {
  search: Joi.array().items(pathRequest).max(50).default([]),
  reach: Joi.string().valid('near', 'places').default('places'),
};

/** Which layer gets which dataset (`path` of a candidate); `before`: the address that it had when that was chosen. */
export interface MendChoice {
  readonly key: string;
  readonly path: string;
  readonly before?: string | null;
}

export interface MendRequest {
  readonly choices: readonly MendChoice[];
  /** Keys of the styles that are written as proposed. */
  readonly styles: readonly string[];
  /** Where was looked when the proposal was made. */
  readonly search: readonly PathRequest[];
  readonly reach: MendReach;
}
export const mendRequest = Joi.object<MendRequest>({
  choices: Joi.array()
    .items(
      Joi.object({
        key: Joi.string().max(8192).required(),
        path: Joi.string().max(8192).required(),
        before: Joi.string().allow(null, ''),
      }),
    )
    .max(50_000)
    .required(),
  styles: Joi.array().items(Joi.string().max(8192)).max(50_000).default([]),
  ...searched,
});

export const searchRequest = Joi.object<SearchRequest>(searched);

export interface PointRequest extends SearchRequest {
  /** The layer that is pointed for. */
  readonly key: string;
  /** A dataset's main file, or a folder. */
  readonly target: PathRequest;
}
export const pointRequest = Joi.object<PointRequest>({
  key: Joi.string().max(8192).required(),
  target: pathRequest.required(),
  ...searched,
});

/** Who deleted what stood there: a real path. */
export interface DeletionRequest {
  readonly path: string;
}
export const deletionRequest = Joi.object<DeletionRequest>({ path: Joi.string().max(8192).required() });

/** 'Not this one': a dataset that a layer is never offered again. */
export interface RejectRequest {
  readonly key: string;
  /** Of the dataset, as its candidate has it. */
  readonly path: string;
}
export const rejectRequest = Joi.object<RejectRequest & SearchRequest>({
  key: Joi.string().max(8192).required(),
  path: Joi.string().max(8192).required(),
  ...searched,
});
/** Layers that are offered again what was turned down for them. */
export interface ForgiveRequest {
  readonly keys: readonly string[];
}
export const forgiveRequest = Joi.object<ForgiveRequest>({ keys: Joi.array().items(Joi.string().max(8192)).max(50_000).required() });

export interface PathsRequest {
  readonly store: 'relative' | 'absolute';
  /** Map file, real path; null: all maps of the project. */
  readonly map: string | null;
  /** False only shows what would change. */
  readonly apply: boolean;
}
export const pathsRequest = Joi.object<PathsRequest>({
  store: Joi.string().valid('relative', 'absolute').required(),
  map: Joi.string().max(8192).allow(null).default(null),
  apply: Joi.boolean().default(false),
});

export interface PackRequest {
  readonly out: PathRequest;
}
export const packRequest = Joi.object<PackRequest>({ out: pathRequest.required() });

export interface ReceiveRequest {
  readonly bundle: PathRequest;
  readonly into: PathRequest;
}
export const receiveRequest = Joi.object<ReceiveRequest>({ bundle: pathRequest.required(), into: pathRequest.required() });

export interface DemoPlaceRequest {
  readonly present?: boolean;
  readonly driveName?: string;
}
export const demoPlaceRequest = Joi.object<DemoPlaceRequest>({ present: Joi.boolean(), driveName: Joi.string().max(400) }).or(
  'present',
  'driveName',
);
