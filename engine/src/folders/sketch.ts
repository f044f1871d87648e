import { join } from 'node:path';
import { datasetId, ProblemError, readGeometryBlob, sampleVertices, VertexSample, type Dataset } from '@rootmap/core';
import type { SketchView } from '@rootmap/core/contract';
import { platformBelow } from '../disk/platform.js';
import { geometryColumnOf, quoteName } from '../geopackage/describe-geopackage.js';
import { openGeopackage } from '../geopackage/open-geopackage.js';
import { confinementOf, linkFolders, type Scope } from '../project/scope.js';
import { surveyWithIndex, type IndexStore } from '../survey/survey-index.js';

const MOST_VERTICES = 6000;
/** Positions are sent as whole numbers of this many steps over the extent. */
const STEPS = 1000;

/** The shape of a dataset in a few thousand points: enough to see what it is, quick for data of any size. */
export async function sketchOf(scope: Scope, id: string, index: IndexStore): Promise<SketchView> {
  for (const folder of [scope.root!, ...linkFolders(scope)]) {
    const { datasets } = await surveyWithIndex(folder, index, { confinedTo: confinementOf(folder, scope.places) });
    const dataset = datasets.find((d) => datasetId(join(folder, d.group.path), d.table) === id);
    if (dataset) return draw(folder, dataset);
  }
  throw new ProblemError({ code: 'not-found', what: 'dataset', id });
}

function draw(folder: string, dataset: Dataset): SketchView {
  const { bbox, group, kind } = dataset;
  const isRaster = kind === 'raster';
  const sample = new VertexSample(MOST_VERTICES);
  if (bbox === null) return { extent: null, points: [], isRaster };
  if (group.format === 'geopackage' && dataset.table !== null) sampleTable(join(folder, group.path), dataset.table, sample);
  else {
    const platform = platformBelow(folder);
    try {
      sampleVertices(group, (path) => platform.open(path), sample);
    } finally {
      platform.close();
    }
  }
  const [minx, miny, maxx, maxy] = bbox;
  const step = (v: number, from: number, to: number): number => (to > from ? Math.round(((v - from) / (to - from)) * STEPS) : STEPS / 2);
  const points = sample.x.flatMap((x, i) => [step(x, minx, maxx), step(sample.y[i]!, miny, maxy)]);
  return { extent: bbox, points, isRaster };
}

function sampleTable(path: string, table: string, sample: VertexSample): void {
  const opened = openGeopackage(path);
  try {
    const column = geometryColumnOf(opened.db, table)?.column_name;
    if (!column) return;
    const rows = opened.db.prepare(`SELECT ${quoteName(column)} FROM ${quoteName(table)}`).pluck(true);
    for (const blob of rows.iterate()) if (blob instanceof Uint8Array) readGeometryBlob(blob, sample.add);
  } finally {
    opened.close();
  }
}
