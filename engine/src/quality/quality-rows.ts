import {
  byElement,
  datasetId,
  explain,
  NO_QUALITY,
  originFindings,
  ProblemError,
  SHEET_ENDING,
  stateOfSheet,
  type Dataset,
  type QualityCheck,
  type QualitySheet,
  statedFacts,
  type SheetState,
  type StatedFact,
} from '@rootmap/core';
import type { QualityRow, QualitySheetView, QualityView } from '@rootmap/core/contract';
import { isInside, join, pathFrom } from '../disk/native-path.js';
import { pathOf } from '../places/places.js';
import { keeperOf, Origins } from '../folders/origins.js';
import { dataAt, type FoundDataset } from '../project/find-dataset.js';
import { isMadeHere } from '../project/made-here.js';
import { confinementOf, presentLinks, type RootedScope } from '../project/scope.js';
import { surveyWithIndex, type IndexStore } from '../survey/survey-index.js';
import { areaId, areaOfProject } from './area-of-interest.js';
import { seenNow, SheetFiles, sheetIn, sheetPlace } from './sheet-file.js';

const KINDS_WITH_SHEET: ReadonlySet<string> = new Set<QualityRow['kind']>(['vector', 'raster', 'table']);

export const canHaveSheet = ({ kind }: Dataset): boolean => KINDS_WITH_SHEET.has(kind);

/** All datasets of a project and its links that can have a sheet. */
export async function datasetsOf(scope: RootedScope, index: IndexStore): Promise<FoundDataset[]> {
  const found: FoundDataset[] = [];
  for (const folder of [scope.root, ...presentLinks(scope).map((l) => l.folder)]) {
    const { datasets } = await surveyWithIndex(folder, index, { confinedTo: confinementOf(folder, scope.places) });
    for (const dataset of datasets) if (canHaveSheet(dataset)) found.push({ folder, dataset });
  }
  return found;
}

export const idOf = ({ folder, dataset }: FoundDataset): string => datasetId(join(folder, dataset.group.path), dataset.table);

/** Whether its sheet cannot be written. */
export const isReadOnly = (scope: RootedScope, found: FoundDataset): boolean =>
  scope.places.some((p) => p.readOnly && isInside(pathOf(p), sheetPlace(scope, found).path));

/** What was read for a row: its sheet, why it cannot be read, and the records of origins. */
interface Known {
  readonly sheet: QualitySheet | null;
  readonly problem: string | null;
  readonly origins: Origins;
}

function lacksOf(scope: RootedScope, found: FoundDataset, origins: Origins): QualityRow['lacks'] {
  const { kind, crs } = found.dataset;
  const at = dataAt(found);
  const origin = isMadeHere(scope, found) ? null : origins.of(at.path, at.table);
  const isUnknown = !isMadeHere(scope, found) && originFindings(origin).some((f) => f.code === 'no-origin');
  return [...(isUnknown ? (['origin'] as const) : []), ...(crs === null && kind !== 'table' ? (['crs'] as const) : [])];
}

function rowOf(scope: RootedScope, found: FoundDataset, { sheet, problem, origins }: Known): QualityRow {
  const { folder, dataset } = found;
  const { linked } = sheetPlace(scope, found).subject;
  const checks = sheet?.computed?.checks ?? [];
  return {
    id: idOf(found),
    name: datasetId(linked ? `${linked.link}/${linked.path}` : pathFrom(scope.root, join(folder, dataset.group.path)), dataset.table),
    kind: dataset.kind as QualityRow['kind'],
    state: stateNow(found, sheet),
    problem,
    isReadOnly: isReadOnly(scope, found),
    elements: byElement(checks),
    fails: count(checks, 'fail'),
    notes: count(checks, 'note'),
    at: sheet?.computed?.at ?? null,
    reviewer: sheet?.review ? { name: sheet.review.name, date: sheet.review.date } : null,
    lacks: lacksOf(scope, found, origins),
  };
}
const count = (checks: readonly QualityCheck[], result: QualityCheck['result']): number => checks.filter((c) => c.result === result).length;

/** How the sheet of a dataset stands to the data that is there now; one that cannot be read is none. */
export function sheetStateOf(scope: RootedScope, found: FoundDataset, files = new SheetFiles()): SheetState {
  const { path, subject } = sheetPlace(scope, found);
  return stateNow(found, sheetIn(files.read(path), subject));
}
function stateNow(found: FoundDataset, sheet: QualitySheet | null): SheetState {
  const of = sheet?.review?.of ?? sheet?.computed?.of ?? null;
  return of === null ? 'none' : stateOfSheet(sheet, seenNow(found, of));
}

/** What a project asks of its data, and whether its area can be used. */
export function qualityAsks(scope: RootedScope): QualityView['asks'] {
  const { sheets } = scope.project?.quality ?? NO_QUALITY;
  const area = areaId(scope);
  try {
    areaOfProject(scope);
    return { area, sheets, problem: null };
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    return { area, sheets, problem: explain(error.problem) };
  }
}

/** The matrix: what is known of each dataset, from the sheets beside them. Data is read again only where its files changed. */
export async function qualityRows(scope: RootedScope, index: IndexStore): Promise<QualityRow[]> {
  const files = new SheetFiles();
  const origins = new Origins(keeperOf(scope));
  return (await datasetsOf(scope, index)).map((found) => {
    const { path, subject } = sheetPlace(scope, found);
    // Most data has no sheet, which the listing tells.
    const has = subject.linked !== null || found.dataset.group.companions.some((f) => f.path.toLowerCase().endsWith(SHEET_ENDING));
    const file = has ? files.read(path) : null;
    return rowOf(scope, found, { sheet: file && sheetIn(file, subject), problem: file?.problem ? explain(file.problem) : null, origins });
  });
}

export function qualitySheet(scope: RootedScope, found: FoundDataset, files = new SheetFiles()): QualitySheetView {
  const { path, subject } = sheetPlace(scope, found);
  const file = files.read(path);
  const sheet = sheetIn(file, subject);
  const review = sheet?.review ?? null;
  return {
    row: rowOf(scope, found, { sheet, problem: file.problem && explain(file.problem), origins: new Origins(keeperOf(scope)) }),
    checks: sheet?.computed?.checks ?? [],
    fields: sheet?.computed?.fields ?? [],
    review,
    isReviewCurrent: review && seenNow(found, review.of).hash === review.of.hash,
    stated: statedOf(scope, found),
  };
}

/** What the publisher of a dataset states, as it is written down. */
function statedOf(scope: RootedScope, found: FoundDataset): StatedFact[] {
  const at = dataAt(found);
  const origin = new Origins(keeperOf(scope)).of(at.path, at.table);
  return origin ? statedFacts(origin) : [];
}
