import type { ProjectServiceLink } from '../project/project-file.js';
import type { LayerState, Reach } from '../map/layer-state.js';

/** Shapes that the server gives over HTTP. Plain JSON; paths are real and absolute unless said otherwise. */

type StateTotals = Record<LayerState, number>;

export interface ProjectSummary {
  readonly key: string;
  readonly id: string | null;
  readonly title: string;
  readonly root: string;
  readonly place: string;
  /** Path below the place. */
  readonly path: string;
  readonly present: boolean;
  /** Why it is not: its place is away, its place is there and the folder is not, or it is in no place. */
  readonly away: 'place' | 'folder' | 'no-place' | null;
  /** Where it stood before it moved, below its place, where that was seen since the start. */
  readonly cameFrom: string | null;
  /** Watched by the operating system, or looked at every 30 s; null while it is not open. */
  readonly watched: 'watched' | 'polled' | null;
  readonly openedMs: number;
  /** When Root Map changed something in it last; null: it never did. */
  readonly changedMs: number | null;
  /** Null until it was looked at, or where it cannot be. */
  readonly totals: StateTotals | null;
  /** Why it could not be looked at; null: it was, or its turn has not come yet. */
  readonly trouble: string | null;
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
  /** As people call it: by its drive name; null: no place has it. */
  readonly shown: string | null;
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
  /** What it is for, in a few sentences. */
  readonly summary: string;
  readonly crs: string | null;
  /** Path of the geodatabase that results go to, from the root. */
  readonly workingGeodatabase: string | null;
  /** How its maps store references unless they say otherwise. */
  readonly storedForm: 'relative' | 'absolute';
  readonly maps: readonly MapView[];
  readonly damaged: readonly { readonly path: string; readonly message: string }[];
  readonly datasets: readonly DatasetView[];
  readonly links: readonly LinkView[];
  /** Linked services; what came of asking them is told apart. */
  readonly services: readonly ProjectServiceLink[];
  readonly leftBehind: readonly string[];
  readonly skipped: readonly { readonly path: string; readonly why: string }[];
  readonly totals: StateTotals;
  readonly bytes: number;
  readonly files: number;
  readonly lookedMs: number;
  /** How long the folders were looked through. */
  readonly surveyMs: number;
}
