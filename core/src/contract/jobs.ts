import type { LayerState } from '../map/layer-state.js';
import type { DuplicatesView } from './edits.js';
import type { ExportDone } from './exports.js';
import type { ImportDone, TablesDone } from './geodatabases.js';
import type { SavedView } from './maps.js';
import type { PathRequest } from './requests.js';
import type { CopiesDone, IntakeDone } from './sources.js';
import type { AppliedView, ChangeView } from './views.js';

/** A bundle that was made and read back. */
export interface PackedView {
  readonly file: string;
  readonly bytes: number;
  readonly payload: { readonly files: number; readonly bytes: number };
  readonly out: PathRequest;
}

/** A bundle that came in; with findings, it is not valid and nothing was unpacked. */
export interface ArrivedView {
  readonly root: string;
  readonly files: number;
  readonly bytes: number;
  readonly key: string | null;
  readonly layers: readonly { readonly title: string; readonly state: LayerState; readonly reason?: string }[];
  readonly findings: readonly { readonly path: string; readonly problem: string }[];
}

/** What comes of each kind of long work. */
export interface JobResults {
  readonly copy: AppliedView;
  readonly copies: CopiesDone;
  readonly duplicates: DuplicatesView;
  readonly export: ExportDone;
  readonly finish: PackedView & { readonly change: ChangeView | null };
  readonly import: ImportDone;
  readonly intake: IntakeDone;
  readonly pack: PackedView;
  readonly receive: ArrivedView;
  readonly save: SavedView;
  readonly tables: TablesDone;
}
export type JobKind = keyof JobResults;

export interface JobHead<K extends JobKind> {
  readonly id: string;
  readonly kind: K;
  readonly title: string;
  readonly project: string | null;
  /** How far it is: bytes, or records where its kind goes record by record. */
  readonly doneBytes: number;
  readonly ofBytes: number;
  readonly item: string;
  readonly startedMs: number;
}
export type JobState<K extends JobKind> =
  | { readonly state: 'running'; readonly message: null; readonly result: null }
  | { readonly state: 'done'; readonly message: null; readonly result: JobResults[K] }
  | { readonly state: 'failed' | 'cancelled'; readonly message: string; readonly result: null };

/** Long work of a kind, as it stands. */
export type JobView<K extends JobKind = JobKind> = { readonly [Kind in K]: JobHead<Kind> & JobState<Kind> }[K];
