import { byCodePoint, fingerprintOf, type Dataset, joined } from '@rootmap/core';
import {
  join,
  confinementOf,
  dataFolder,
  helperFor,
  isLarge,
  readWhole,
  surveyFolder,
  surveyWithIndex,
  type IndexedSurvey,
  below,
} from '@rootmap/engine';
import type { Command } from '../command.js';
import { heads, scopeOf } from '../scope.js';
import { columns, many, shortened } from '../text.js';

export const datasets: Command = {
  usage: 'datasets FOLDER [--full]',
  summary: 'What is there: files grouped into datasets, their headers read. --full adds hash, grid and vertices to the fingerprint.',
  examples: ['datasets .', 'datasets originals --json', 'datasets . --full --json'],
  flags: { full: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const scope = scopeOf(call);
    const folder = call.paths[0]!;
    const survey = await surveyed(folder, confinementOf(folder, call.places));
    const rows = survey.datasets.map((d) => toJson(d, folder, scope.root ?? folder, call.flags['full'] === true));
    const opaque = new Set(survey.datasets.filter((d) => d.kind === 'opaque').map((d) => d.group.path));
    const files = new Map(survey.datasets.flatMap((d) => [d.group.main, ...d.group.companions].map((f) => [f.path, f.bytes] as const)));
    const totals = {
      files: [...files.keys()].filter((f) => !opaque.has(f)).length,
      bytes: [...files.values()].reduce((a, b) => a + b, 0),
      datasets: rows.length,
    };
    const bad = rows.filter((r) => r.state !== 'ok');
    return {
      json: {
        ...heads(scope),
        datasets: rows,
        leftBehind: survey.leftBehind.map((p) => join(folder, p)),
        skipped: survey.skipped,
        totals,
      },
      text: [
        ...columns(
          rows.map((r) => [
            r.state === 'ok' ? 'ok' : r.state,
            r.format,
            r.geometryType ?? r.kind,
            r.featureCount === undefined ? '' : String(r.featureCount),
            r.crs?.code ?? '',
            r.id,
          ]),
        ),
        ...survey.leftBehind.map((p) => `left behind: ${p}`),
        ...survey.skipped.map((s) => `not looked at: ${shortened(s.path)}`),
        `${many(totals.datasets, 'dataset')}, ${many(totals.files, 'file')}, ${totals.bytes} bytes${bad.length ? `; ${bad.length} not ok` : ''}`,
      ],
      status: bad.length || survey.skipped.length ? 1 : 0,
    };
  },
};

/** With the index where the folder is large: only what is not as it was is read again. */
async function surveyed(folder: string, confinedTo: string): Promise<Pick<IndexedSurvey, 'datasets' | 'leftBehind' | 'skipped'>> {
  const plain = (): Pick<IndexedSurvey, 'datasets' | 'leftBehind' | 'skipped'> => {
    const { datasets, leftBehind, listing } = surveyFolder(folder, confinedTo);
    return { datasets, leftBehind, skipped: listing.skipped };
  };
  if (!isLarge(folder)) return plain();
  const { openIndex } = await import('@rootmap/engine/index-store');
  const index = await openIndex(join(dataFolder(), 'index.sqlite')).catch(() => null); // a cache: without it all is read
  if (!index) return plain();
  try {
    const survey = await surveyWithIndex(folder, index, { confinedTo, helper: helperFor(folder, import.meta.url), withTexts: true });
    return {
      ...survey,
      // Threads tell theirs in the order in which they took them.
      datasets: [...survey.datasets].sort((a, b) => byCodePoint(a.id, b.id)),
      leftBehind: [...survey.leftBehind].sort(byCodePoint),
    };
  } finally {
    await index.close();
  }
}

function toJson(d: Dataset, folder: string, root: string, full: boolean) {
  const whole = full ? readWhole(folder, d) : null;
  const deleted = whole?.deletedRows
    ? [
        {
          code: 'deleted-rows',
          message: `${whole.deletedRows} of the ${d.featureCount ?? 0} records are marked deleted; programs do not show them.`,
        },
      ]
    : [];
  const main = d.kind === 'opaque' ? [] : [d.group.main];
  const files = [...main, ...d.group.companions];
  const own = below(root, folder);
  return {
    id: own === null ? d.id : joined([own, d.id]),
    path: join(folder, d.group.path),
    ...(d.table === null ? {} : { table: d.table }),
    format: d.group.format,
    kind: d.kind,
    files: files.map((f) => join(folder, f.path)),
    bytes: files.reduce((sum, f) => sum + f.bytes, 0),
    ...(d.geometryType === null ? {} : { geometryType: d.geometryType }),
    ...(d.featureCount === null ? {} : { featureCount: d.featureCount }),
    ...(d.fields === null ? {} : { fields: d.fields }),
    crs: d.crs,
    ...(d.bbox === null ? {} : { bbox: d.bbox }),
    ...(d.raster === null ? {} : { width: d.raster.width, height: d.raster.height, bands: d.raster.bands }),
    state: d.state,
    findings: [...d.findings, ...deleted],
    fingerprint: whole?.fingerprint ?? fingerprintOf(d.group, d),
  };
}
