/** Shapes that the server gives over HTTP. Plain JSON; paths are real and absolute unless said otherwise. */
import type { LayerState, Reach } from '../map/layer-state.js';
import type { Verdict } from '../mend/types.js';
import type { Origin } from '../origin/origin.js';
import type { PathRequest } from './requests.js';
import type { JobView } from './jobs.js';

export type StateTotals = Record<LayerState, number>;

export interface PlaceView {
  readonly name: string;
  readonly folder: string;
  readonly driveNames: readonly string[];
  readonly present: boolean;
  readonly readOnly: boolean;
  /** Since when it is absent, as far as this server saw it go. */
  readonly absentSince: string | null;
}

export interface StatusView {
  readonly version: string;
  readonly demo: boolean;
  /** Places can be added and removed in the app: only on loopback, and not when they are configured. */
  readonly placesEditable: boolean;
  readonly notices: readonly string[];
}

export interface FolderView {
  readonly place: string;
  readonly path: string;
  readonly folders: readonly { readonly name: string; readonly isProject: boolean }[];
  readonly files: readonly { readonly name: string; readonly bytes: number; readonly format: string | null }[];
  readonly isProject: boolean;
  readonly isEmpty: boolean;
}

export interface ProjectSummary {
  readonly key: string;
  readonly id: string | null;
  readonly title: string;
  readonly root: string;
  readonly place: string;
  /** Path below the place. */
  readonly path: string;
  readonly present: boolean;
  /** Watched by the operating system, or looked at every 30 s; null while it is not open. */
  readonly watched: 'watched' | 'polled' | null;
  readonly openedMs: number;
  /** Null until it was looked at, or where it cannot be. */
  readonly totals: StateTotals | null;
  readonly bytes: number | null;
  readonly datasets: number | null;
  readonly maps: number | null;
  /** The same project id stands at another present root too. */
  readonly isCopy: boolean;
}

export interface LayerView {
  readonly key: string;
  readonly map: string;
  readonly layer: string;
  readonly title: string;
  readonly geometry: string | null;
  readonly href: string | null;
  readonly stored: 'relative' | 'absolute' | 'service';
  readonly resolved: string | null;
  /** `resolved` as people call it: from the root, or by a drive name; the table behind it. */
  readonly shownResolved: string | null;
  readonly table: string | null;
  readonly reach: Reach;
  readonly state: LayerState;
  readonly reason: string | null;
  readonly detail: string | null;
  /** Id of the dataset in `datasets`, when it is there. */
  readonly dataset: string | null;
  /** Name of the link that it goes through, when it does. */
  readonly link: string | null;
  /** The folder that was recorded, as people read it; for what is adrift or absent. */
  readonly recordedFolder: string | null;
  /** Its style, where that stands in a file of its own. */
  readonly style: { readonly href: string; readonly isThere: boolean } | null;
}

export interface MapView {
  readonly path: string;
  /** From the root. */
  readonly relativePath: string;
  readonly title: string;
  readonly storedForm: 'relative' | 'absolute';
  readonly bytes: number;
  readonly layers: readonly LayerView[];
}

export interface DatasetView {
  /** Real path, `#table` behind it for a table. */
  readonly id: string;
  readonly name: string;
  /** From the root, or from the linked folder. */
  readonly folder: string;
  readonly link: string | null;
  readonly place: string;
  readonly format: string;
  readonly kind: string;
  readonly geometry: string | null;
  readonly count: number | null;
  readonly crs: string | null;
  readonly bytes: number;
  readonly state: 'ok' | 'incomplete' | 'unreadable';
  readonly findings: readonly { readonly code: string; readonly message: string; readonly fix?: string }[];
}

export interface LinkView {
  readonly name: string;
  readonly place: string | null;
  readonly path: string | null;
  readonly present: boolean;
  /** While it is away: what it held when it was seen last. */
  readonly known: {
    readonly seenMs: number | null;
    readonly datasets: readonly { readonly name: string; readonly folder: string; readonly bytes: number }[];
  } | null;
}

/** Everything that the stops of the trail show of one project. */
export interface ProjectView {
  readonly key: string;
  readonly id: string | null;
  readonly title: string;
  readonly root: string;
  readonly shownRoot: string;
  readonly place: string;
  /** Path of the root below its place. */
  readonly path: string;
  readonly crs: string | null;
  /** How its maps store references unless they say otherwise. */
  readonly storedForm: 'relative' | 'absolute';
  readonly maps: readonly MapView[];
  readonly damaged: readonly { readonly path: string; readonly message: string }[];
  readonly datasets: readonly DatasetView[];
  readonly links: readonly LinkView[];
  readonly leftBehind: readonly string[];
  readonly skipped: readonly { readonly path: string; readonly why: string }[];
  readonly totals: StateTotals;
  readonly bytes: number;
  readonly files: number;
  readonly lookedMs: number;
  /** How long the folders were looked through. */
  readonly surveyMs: number;
}

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
  };
  readonly damaged: readonly { readonly path: string; readonly message: string }[];
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

export interface ChangeView {
  readonly id: string;
  readonly title: string;
  readonly kind: string;
  readonly who: string;
  readonly createdMs: number;
  readonly state: 'preparing' | 'applying' | 'taking-back' | 'done' | 'undone' | 'taken-back' | 'failed';
  /** It was left midway, and waits for its folder or its disk. */
  readonly isWaiting: boolean;
  readonly note: string | null;
  readonly files: readonly string[];
  readonly canUndo: boolean;
}

export interface AppliedView {
  readonly change: ChangeView | null;
  readonly applied: number;
  /** Layers that are still not sound, from disk. */
  readonly left: number;
}

export interface PackPreview {
  readonly suggested: { readonly place: string; readonly path: string };
  readonly files: number;
  readonly bytes: number;
  readonly leftOut: readonly { readonly path: string; readonly why: string }[];
  readonly findings: readonly { readonly path: string; readonly why: string }[];
  readonly layers: readonly { readonly map: string; readonly title: string; readonly state: LayerState; readonly detail: string | null }[];
  readonly rewritten: number;
  readonly carriers: readonly { readonly name: string; readonly fits: boolean; readonly why: string; readonly limitBytes: number | null }[];
}

/** RFC 9457. */
export interface ProblemDetails {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail: string;
  readonly code: string;
}

export type ServerEvent =
  | { readonly type: 'project'; readonly key: string }
  | { readonly type: 'projects' }
  | { readonly type: 'places' }
  | { readonly type: 'journal' }
  /** What a search for data is on; `key` of the project or lone map. */
  | { readonly type: 'search'; readonly key: string; readonly item: string }
  | { readonly type: 'job'; readonly job: JobView };
