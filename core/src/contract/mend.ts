import Joi from 'joi';
import type { LayerState, Reach } from '../map/layer-state.js';
import type { Choice, Verdict } from '../mend/types.js';
import type { Origin } from '../origin/origin.js';
import { type PathRequest, pathRequest } from './places.js';
import { objectOf } from './shapes.js';

export interface MendLayerView {
  readonly key: string;
  readonly map: string;
  readonly mapTitle: string;
  readonly layer: string;
  readonly title: string;
  readonly stored: 'relative' | 'absolute' | 'service';
  readonly reach: Reach;
  readonly recordedFolder: string | null;
  /** Real path of what was recorded, where that is in a place. */
  readonly resolved: string | null;
  readonly before: { readonly href: string | null; readonly state: LayerState; readonly reason?: string };
  readonly after: { readonly href: string; readonly state: LayerState } | null;
  readonly verdict: Verdict;
  readonly shift: number | null;
  /** Equal content stands in several places: how many they are, and what speaks for the first. */
  readonly choice: Choice | null;
  readonly remembered: FactsView | null;
  readonly needs: readonly string[];
  /** The best few, the best first. */
  readonly candidates: readonly CandidateView[];
  readonly trouble: { readonly code: string; readonly sentence: string; readonly fix: string };
  /** Other maps that use the same data, also where it is gone. */
  readonly usedBy: readonly string[];
  /** The dataset whose index can be made anew; null where that is not the trouble. */
  readonly indexLost: PathRequest | null;
  /** Shapes that lost their table, and tables elsewhere that fit them. */
  readonly tableLost: {
    readonly dataset: PathRequest;
    readonly tables: readonly { readonly at: PathRequest; readonly shownPath: string; readonly evidence: readonly string[] }[];
  } | null;
  /** The archive that data of its name is still packed in. */
  readonly packedIn: PathRequest | null;
  /** Where its data came from, as it was written down where the data stood. */
  readonly origin: OriginShort | null;
  /** When its data was seen last where it was recorded; null: not since this is kept. */
  readonly lastSeenMs: number | null;
}

/** The change by which data was deleted, which can be undone. */
export interface DeletionView {
  readonly id: string;
  readonly title: string;
  readonly ms: number;
}

/** What tells where data came from and how to get it again. */
export type OriginShort = Pick<Origin, 'title' | 'publisher' | 'page' | 'address' | 'fetched' | 'licence'>;

/** A style in a file of its own that is not where the map says. */
export interface MendStyleView {
  readonly key: string;
  readonly map: string;
  readonly title: string;
  readonly mapTitle: string;
  readonly before: string;
  readonly after: string | null;
  readonly verdict: Verdict;
  readonly evidence: readonly string[];
}

export interface CandidateView {
  readonly href: string;
  readonly path: string;
  readonly shownPath: string;
  readonly score: number;
  readonly evidence: readonly string[];
  /** The layer had its data in the project, and would have it outside. */
  readonly leavesProject: boolean;
  /** Maps that use it already. */
  readonly usedBy: readonly string[];
  readonly origin: OriginShort | null;
  readonly facts: FactsView;
}

/** The numbers that a person compares. */
export interface FactsView {
  readonly format: string;
  readonly geometry: string | null;
  readonly count: number | null;
  readonly vertices: number | null;
  readonly crs: string | null;
  readonly modified: string | null;
  readonly hash: string | null;
  readonly extent: readonly [number, number, number, number] | null;
  readonly grid: string | null;
  readonly fields: readonly (readonly [string, string])[] | null;
}

export interface MendShiftView {
  readonly kind: 'folder' | 'map-moved' | 'renamed' | 'converted';
  readonly from: string;
  readonly to: string;
  readonly evidence: readonly string[];
  readonly verdict: Verdict;
  readonly layers: readonly string[];
  readonly maps: number;
  /** What could be said once instead of rewriting the maps: a name of a drive, or where a link leads. */
  readonly redirect:
    | { readonly kind: 'drive'; readonly drive: string; readonly place: string }
    | { readonly kind: 'link'; readonly name: string; readonly folder: PathRequest }
    | null;
}

export interface MendProjectView {
  readonly shifts: readonly MendShiftView[];
  readonly layers: readonly MendLayerView[];
  readonly styles: readonly MendStyleView[];
  /** `isStopped`: the places hold more than is looked at unasked. `isWider`: something is not explained, and there is more to look through. */
  readonly searched: {
    readonly folders: readonly string[];
    readonly datasets: number;
    readonly isStopped: boolean;
    readonly isWider: boolean;
    /** Projects below folders that were added: they were not looked into. */
    readonly projects: readonly string[];
  };
  readonly damaged: readonly { readonly path: string; readonly message: string }[];
}

/** A view of which the layers may go on in pages, named in their order; each is a list of layers, and is kept for a minute. */
export interface MendAnswer extends MendProjectView {
  readonly more: readonly string[];
}

/** What a person's pointing would mend. */
export interface PointedView {
  readonly from: string;
  readonly to: string;
  readonly mends: readonly {
    readonly key: string;
    readonly title: string;
    readonly mapTitle: string;
    readonly before: string | null;
    readonly after: string;
    readonly path: string;
  }[];
}

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

export const mendRequest = objectOf<MendRequest>({
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

export const searchRequest = objectOf<SearchRequest>(searched);

export interface PointRequest extends SearchRequest {
  /** The layer that is pointed for. */
  readonly key: string;
  /** A dataset's main file, or a folder. */
  readonly target: PathRequest;
}

export const pointRequest = objectOf<PointRequest>({
  key: Joi.string().max(8192).required(),
  target: pathRequest.required(),
  ...searched,
});

/** Who deleted what stood there: a real path. */
export interface DeletionRequest {
  readonly path: string;
}

export const deletionRequest = objectOf<DeletionRequest>({ path: Joi.string().max(8192).required() });

/** 'Not this one': a dataset that a layer is never offered again. */
export interface RejectRequest {
  readonly key: string;
  /** Of the dataset, as its candidate has it. */
  readonly path: string;
}

export const rejectRequest = objectOf<RejectRequest & SearchRequest>({
  key: Joi.string().max(8192).required(),
  path: Joi.string().max(8192).required(),
  ...searched,
});

/** Layers that are offered again what was turned down for them. */
export interface ForgiveRequest {
  readonly keys: readonly string[];
}

export const forgiveRequest = objectOf<ForgiveRequest>({ keys: Joi.array().items(Joi.string().max(8192)).max(50_000).required() });

export interface PathsRequest {
  readonly store: 'relative' | 'absolute';
  /** Map file, real path; null: all maps of the project. */
  readonly map: string | null;
  /** False only shows what would change. */
  readonly apply: boolean;
}

export const pathsRequest = objectOf<PathsRequest>({
  store: Joi.string().valid('relative', 'absolute').required(),
  map: Joi.string().max(8192).allow(null).default(null),
  apply: Joi.boolean().default(false),
});
