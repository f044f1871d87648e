import { join } from 'node:path';
import { fingerprintOf, type Dataset } from '@rootmap/core';
import { confinementOf, readWhole, surveyFolder } from '@rootmap/engine';
import type { Command } from '../command.js';
import { heads, scopeOf } from '../scope.js';
import { columns, many } from '../text.js';

export const datasets: Command = {
  usage: 'datasets FOLDER [--full]',
  summary: 'What is there: files grouped into datasets, their headers read. --full adds hash, grid and vertices to the fingerprint.',
  flags: { full: { type: 'boolean' } },
  paths: [1, 1],
  run: async (call) => {
    const scope = scopeOf(call);
    const folder = call.paths[0]!;
    const survey = surveyFolder(folder, confinementOf(folder, call.places));
    const rows = survey.datasets.map((d) => toJson(d, folder, scope.root ?? folder, call.flags['full'] === true));
    const files = new Map(survey.datasets.flatMap((d) => [d.group.main, ...d.group.companions].map((f) => [f.path, f.bytes] as const)));
    const totals = {
      files: [...files.keys()].filter((f) => !isFolder(f, survey.datasets)).length,
      bytes: [...files.values()].reduce((a, b) => a + b, 0),
      datasets: rows.length,
    };
    const bad = rows.filter((r) => r.state !== 'ok');
    return {
      json: {
        ...heads(scope),
        datasets: rows,
        leftBehind: survey.leftBehind.map((p) => join(folder, p)),
        skipped: survey.listing.skipped,
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
        `${many(totals.datasets, 'dataset')}, ${many(totals.files, 'file')}, ${totals.bytes} bytes${bad.length ? `; ${bad.length} not ok` : ''}`,
      ],
      status: bad.length || survey.listing.skipped.length ? 1 : 0,
    };
  },
};

const isFolder = (path: string, all: readonly Dataset[]): boolean => all.some((d) => d.kind === 'opaque' && d.group.path === path);

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
  const below = folder === root ? '' : `${folder.slice(root.length).replace(/^\/+/, '')}/`;
  return {
    id: below + d.id,
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
