import Papa from 'papaparse';

/** One row of a table of layers. */
export interface LayerTableRow {
  readonly title: string;
  readonly path: string;
  readonly table: string | null;
}

const COLUMNS: Readonly<Record<keyof LayerTableRow, RegExp>> = {
  title: /^(title|layer|layer title|name)$/i,
  path: /^(path|file|source|href|address|as recorded|location)$/i,
  table: /^(table|sheet)$/i,
};

/**
 * A table of layers as people paste or keep it: CSV or TSV with a header that names title, path, table, in any order; without
 * one a single column is paths, two are title and path, three title, path and table. Rows without a path are left out.
 */
export function readLayerTable(text: string): LayerTableRow[] {
  const { data } = Papa.parse<string[]>(text.replace(/^\uFEFF/, '').trim(), { skipEmptyLines: 'greedy' });
  const [head] = data;
  if (!head) return [];
  const named = (Object.keys(COLUMNS) as (keyof LayerTableRow)[]).map(
    (key) => [key, head.findIndex((c) => COLUMNS[key].test(c.trim()))] as const,
  );
  const hasHead = named.some(([key, at]) => key === 'path' && at >= 0);
  const at = hasHead ? Object.fromEntries(named) : positions(Math.max(...data.slice(0, 50).map((r) => r.length)));
  return (hasHead ? data.slice(1) : data).flatMap((row) => {
    const cell = (key: keyof LayerTableRow): string => row[at[key] ?? -1]?.trim() ?? '';
    const whole = cell('path');
    if (whole === '') return [];
    const [path, fragment] = cell('table') === '' ? split(whole) : [whole, cell('table')];
    return [{ title: cell('title') || stemOf(path, fragment), path, table: fragment }];
  });
}

const positions = (columns: number): Record<string, number> => (columns === 1 ? { path: 0 } : { title: 0, path: 1, table: 2 });

/** `coast.gpkg#land` names a table; in other files `#` is a letter of the name. */
function split(path: string): [string, string | null] {
  const m = /^(.*\.(?:gpkg|gpx|kml|kmz|xlsx))#(.+)$/i.exec(path);
  return m ? [m[1]!, m[2]!] : [path, null];
}

const stemOf = (path: string, table: string | null): string =>
  (table ?? path.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '')).replaceAll('_', ' ');

/** The same table, for a person to keep: title, path, table. */
export const writeLayerTable = (rows: readonly LayerTableRow[]): string =>
  `${Papa.unparse({ fields: ['title', 'path', 'table'], data: rows.map((r) => [r.title, r.path, r.table ?? '']) }, { newline: '\r\n' })}\r\n`;
