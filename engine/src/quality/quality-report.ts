import { reportOf, type ReportedSheet, type ReportFormat } from '@rootmap/core';
import { basename } from '../disk/native-path.js';
import type { FoundDataset } from '../project/find-dataset.js';
import type { RootedScope } from '../project/scope.js';
import type { IndexStore } from '../survey/survey-index.js';
import { datasetsOf, idOf, qualitySheet } from './quality-rows.js';
import { SheetFiles } from './sheet-file.js';
import { sheetPicture } from './sheet-picture.js';

/** A sheet as it is kept, for people. */
export function reportedSheet(scope: RootedScope, found: FoundDataset, files = new SheetFiles()): ReportedSheet {
  const { row, checks, review, stated } = qualitySheet(scope, found, files);
  return { name: row.name, state: row.state, at: row.at, checks, review, stated };
}

/** Sheets as a file to be handed on. @param data the dataset of each sheet, for the pictures that only pages of paper have */
export async function reportFile(
  sheets: readonly ReportedSheet[],
  data: readonly FoundDataset[],
  { format, title, nowMs }: { readonly format: ReportFormat; readonly title: string; readonly nowMs: number },
): Promise<Buffer> {
  if (format !== 'pdf') return Buffer.from(reportOf(sheets, format, title), 'utf8');
  const { sheetsAsPdf } = await import('./sheet-pdf.js');
  const pictured = [];
  for (const [i, sheet] of sheets.entries()) pictured.push({ ...sheet, picture: await sheetPicture(data[i]!, sheet.checks) });
  return sheetsAsPdf(pictured, title, nowMs);
}

/** All sheets of a project that there are, or that of one dataset. */
export async function qualityReport(
  scope: RootedScope,
  index: IndexStore,
  { format, only, nowMs }: { readonly format: ReportFormat; readonly only: string | null; readonly nowMs: number },
): Promise<Buffer> {
  const wanted = (await datasetsOf(scope, index)).filter((d) => only === null || idOf(d) === only);
  const files = new SheetFiles();
  const all = wanted.map((found) => ({ found, sheet: reportedSheet(scope, found, files) })).filter(({ sheet }) => sheet.state !== 'none');
  const title = scope.project?.title ?? basename(scope.root);
  return reportFile(
    all.map((a) => a.sheet),
    all.map((a) => a.found),
    { format, title, nowMs },
  );
}
