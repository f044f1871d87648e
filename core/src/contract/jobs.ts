import type { Progress } from '../progress.js';
import type { ArrivedView, PackedView } from './bundles.js';
import type { CopiesDone } from './copies.js';
import type { ExportDone } from './exports.js';
import type { DuplicatesView } from './folders.js';
import type { ImportDone, TablesDone } from './geodatabases.js';
import type { IntakeDone } from './intake.js';
import type { AppliedView, ChangeView } from './journal.js';
import type { QualityDone } from './quality.js';
import type { SavedView } from './maps.js';
import type { FetchDone, PutBackDone, ServiceCopyDone } from './services.js';

/** What comes of each kind of long work. */
export interface JobResults {
  readonly copy: AppliedView;
  readonly copies: CopiesDone;
  readonly duplicates: DuplicatesView;
  readonly export: ExportDone;
  readonly fetch: FetchDone;
  readonly finish: PackedView & { readonly change: ChangeView | null };
  readonly import: ImportDone;
  readonly intake: IntakeDone;
  readonly pack: PackedView;
  readonly 'put-back': PutBackDone;
  readonly quality: QualityDone;
  readonly receive: ArrivedView;
  readonly 'service-copy': ServiceCopyDone;
  readonly save: SavedView;
  readonly tables: TablesDone;
}

export type JobKind = keyof JobResults;

/** @public What the web's client gives names it. */
export interface JobHead<K extends JobKind> extends Progress {
  readonly id: string;
  readonly kind: K;
  readonly title: string;
  readonly project: string | null;
  readonly startedMs: number;
}

export type JobState<K extends JobKind> =
  | { readonly state: 'running'; readonly message: null; readonly result: null }
  | { readonly state: 'done'; readonly message: null; readonly result: JobResults[K] }
  | { readonly state: 'failed' | 'cancelled'; readonly message: string; readonly result: null };

/** Long work of a kind, as it stands. */
export type JobView<K extends JobKind = JobKind> = { readonly [Kind in K]: JobHead<Kind> & JobState<Kind> }[K];
