import { explain, ProblemError, type OnProgress, type QualityCheck, type QualitySheet } from '@rootmap/core';
import type { ReviewRequest } from '@rootmap/core/contract';
import type { PlannedChange, PlannedWrite } from '../changes/change.js';
import { databaseProblem, holdGeopackage } from '../geopackage/open-geopackage.js';
import { diskProblem } from '../disk/disk-problem.js';
import { basename } from '../disk/native-path.js';
import { keeperOf, Origins } from '../folders/origins.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { isMadeHere } from '../project/made-here.js';
import { dataAt } from '../project/find-dataset.js';
import type { RootedScope } from '../project/scope.js';
import { areaOfProject } from './area-of-interest.js';
import { expectedCodes } from './expected-codes.js';
import { checkDataset } from './check-dataset.js';
import { idOf, isReadOnly } from './quality-rows.js';
import { planSheets, readSheetFile, seenNow, sheetIn, sheetPlace } from './sheet-file.js';

interface CheckedDataset {
  readonly id: string;
  readonly checks: readonly QualityCheck[];
  /** They come from the sheet, and nothing was computed. */
  readonly isKnown: boolean;
}

export interface PlannedSheets {
  readonly change: PlannedChange | null;
  readonly datasets: readonly CheckedDataset[];
  readonly failed: readonly { readonly dataset: string; readonly why: string }[];
}

interface Options {
  /** Also what is known already. */
  readonly anew: boolean;
  /** Sheets are written; else what the data holds is looked up only where it is compared with a sheet. */
  readonly keeps: boolean;
  readonly who: string;
  readonly nowMs: number;
  readonly onProgress: OnProgress;
}

/**
 * Checks datasets one by one, and plans the sheets that are written. What is known of the data that is there now is not computed again.
 * One that cannot be read is told, and the rest goes on.
 */
export async function planChecks(scope: RootedScope, wanted: readonly FoundDataset[], options: Options): Promise<PlannedSheets> {
  const { anew, keeps, who, nowMs, onProgress } = options;
  const origins = new Origins(keeperOf(scope));
  const area = areaOrNone(scope);
  const files = new Map<string, { readonly file: ReturnType<typeof readSheetFile>; readonly changed: QualitySheet[] }>();
  const datasets: CheckedDataset[] = [];
  const failed: { dataset: string; why: string }[] = [];
  const holder = new Holder(wanted);
  for (const [n, found] of wanted.entries()) {
    const id = idOf(found);
    onProgress({ done: n, of: wanted.length, unit: 'datasets', item: id });
    holder.next(dataAt(found).path);
    try {
      const { path, subject } = sheetPlace(scope, found);
      const of = files.get(path) ?? { file: readSheetFile(path), changed: [] };
      files.set(path, of);
      if (of.file.problem) throw new ProblemError(of.file.problem);
      const before = sheetIn(of.file, subject);
      const seen = keeps || (before?.computed && !anew) ? seenNow(found, before?.computed?.of ?? null) : null;
      if (!anew && seen && before?.computed?.of.hash === seen.hash && seen.hash !== '') {
        datasets.push({ id, checks: before.computed.checks, isKnown: true });
        continue;
      }
      const at = dataAt(found);
      const projectCrs = scope.project?.crs ?? null;
      const origin = origins.of(at.path, at.table);
      const { checks, fields } = await checkDataset(found, {
        origin,
        isMadeHere: isMadeHere(scope, found),
        projectCrs,
        codes: expectedCodes(scope, found),
        area: area && idOf(area) === id ? null : area,
        nowMs,
        onProgress,
      });
      datasets.push({ id, checks, isKnown: false });
      if (seen && keeps && !isReadOnly(scope, found))
        of.changed.push({
          ...subject,
          computed: { at: new Date(nowMs).toISOString(), of: seen, checks, fields },
          review: before?.review ?? null,
        });
    } catch (error) {
      const problem = error instanceof ProblemError ? error.problem : (databaseProblem(error, id) ?? diskProblem(error, id));
      if (!problem) throw error;
      failed.push({ dataset: id, why: explain(problem) });
    }
  }
  holder.release();
  const writes = [...files].flatMap(([path, { file, changed }]) => (changed.length > 0 ? [planSheets(path, file, changed)] : []));
  const written = [...files.values()].flatMap((f) => f.changed);
  const title = written.length === 1 ? `Check ${written[0]!.table ?? nameOf(written[0]!, writes)}` : `Check ${written.length} datasets`;
  return { change: changeOf(scope, writes, title, who), datasets, failed };
}

/** Keeps a geodatabase open while its tables are looked at one after the other. */
class Holder {
  private readonly tables = new Map<string, number>();
  private path: string | null = null;
  private end: () => void = () => undefined;

  constructor(wanted: readonly FoundDataset[]) {
    for (const found of wanted)
      if (found.dataset.group.format === 'geopackage') this.tables.set(dataAt(found).path, (this.tables.get(dataAt(found).path) ?? 0) + 1);
  }

  next(path: string): void {
    if (path === this.path) return;
    this.release();
    this.path = path;
    if ((this.tables.get(path) ?? 0) > 1) this.end = holdGeopackage(path);
  }

  release(): void {
    this.end();
    this.end = () => undefined;
    this.path = null;
  }
}

/** An area that is gone holds nothing up: the page that shows the matrix tells it. */
function areaOrNone(scope: RootedScope): FoundDataset | null {
  try {
    return areaOfProject(scope);
  } catch (error) {
    if (error instanceof ProblemError) return null;
    throw error;
  }
}

const nameOf = ({ linked }: QualitySheet, [write]: readonly PlannedWrite[]): string =>
  basename(linked?.path ?? write!.path.replace(/\.quality\.json$/, ''));

const changeOf = (scope: RootedScope, writes: readonly PlannedWrite[], title: string, who: string): PlannedChange | null =>
  writes.length === 0 ? null : { title, kind: 'quality', root: scope.root, who, steps: writes };

/** What a reviewer says, signed with what the data holds now. Throws where its sheet cannot be read or written. */
export function planReview(scope: RootedScope, found: FoundDataset, { dataset: _, ...said }: ReviewRequest, who: string): PlannedChange {
  const { path, subject } = sheetPlace(scope, found);
  const file = readSheetFile(path);
  if (file.problem) throw new ProblemError(file.problem);
  if (isReadOnly(scope, found)) throw new ProblemError({ code: 'read-only', path });
  const before = sheetIn(file, subject);
  const review = { ...said, of: seenNow(found, before?.review?.of ?? before?.computed?.of ?? null) };
  const sheet: QualitySheet = { ...subject, computed: before?.computed ?? null, review };
  const name = found.dataset.table ?? basename(found.dataset.group.path);
  return changeOf(scope, [planSheets(path, file, [sheet])], `Review ${name}`, who)!;
}
