import Papa from 'papaparse';
import type { ProjectView } from '@rootmap/core/contract';
import { STATE_WORD } from '../parts/tether.js';

/** Every layer of a project and where its data is, for a report. RFC 4180, UTF-8 with the mark that spreadsheets look for. */
export function diagramCsv(project: ProjectView): string {
  const rows = project.maps.flatMap((m) =>
    m.layers.map((l) => ({
      map: m.title,
      'map file': m.relativePath,
      layer: l.title,
      state: STATE_WORD[l.state],
      stored: l.stored,
      reach: l.reach,
      'as recorded': l.href ?? '',
      'leads to': l.shownResolved ?? '',
      link: l.link ?? '',
      'what is wrong': l.detail ?? '',
    })),
  );
  return `\uFEFF${Papa.unparse(rows, { newline: '\r\n', escapeFormulae: true })}\r\n`;
}
