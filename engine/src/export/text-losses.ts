import { arcsLost, EMPTY_TEXT_LOST, lossOf, noNumbersLost, type Loss } from '@rootmap/core';
import type { ExportSource, ExportTally } from './export-source.js';

/**
 * What GeoJSON or CSV cannot hold of a source.
 * @param tally of what was written; null: nothing is yet, so what only shapes tell is not counted
 */
export function textLosses({ fields, kind, arcs }: ExportSource, format: 'geojson' | 'csv', tally: ExportTally | null): Loss[] {
  const bytes = fields
    .filter((f) => f.type === 'binary')
    .map((f): Loss => ({ code: 'field', what: 'it holds bytes, and is left out', count: null, field: f.name }));
  const hasM = kind !== null && /M$/.test(kind);
  const measures = lossOf(
    'measures',
    tally ? tally.measures : hasM ? null : 0,
    'record loses the measures (M) of its shape',
    'records lose the measures (M) of their shapes',
  );
  const own = [...bytes, ...measures, ...arcsLost(arcs)];
  if (format === 'geojson') {
    const wide = fields
      .filter((f) => f.type === 'integer64')
      .map((f): Loss => ({
        code: 'digits',
        what: 'whole numbers beyond 9,007,199,254,740,991 are read inexactly by some programs',
        count: null,
        field: f.name,
      }));
    return [...own, ...noNumbersLost(tally?.noNumbers ?? 0), ...wide];
  }
  const isPoint = kind !== null && /^Point/.test(kind);
  const heights = lossOf(
    'heights',
    !isPoint ? 0 : tally ? tally.heights : /Z/.test(kind) ? null : 0,
    'point loses its height (Z)',
    'points lose their heights (Z)',
  );
  return [...own, ...heights, EMPTY_TEXT_LOST];
}
