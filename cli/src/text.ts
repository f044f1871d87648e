/** Lines in columns, the last one as wide as it likes. */
export function columns(rows: readonly (readonly string[])[]): string[] {
  const widths: number[] = [];
  for (const row of rows) row.forEach((cell, i) => (widths[i] = Math.max(widths[i] ?? 0, cell.length)));
  return rows.map((row) =>
    row
      .map((cell, i) => (i === row.length - 1 ? cell : cell.padEnd(widths[i]!)))
      .join('  ')
      .trimEnd(),
  );
}

export const many = (n: number, one: string, more = `${one}s`): string => `${n} ${n === 1 ? one : more}`;

const LONGEST_PATH = 200;
/** A path without its middle where it is longer than anyone reads; the JSON has it whole. */
export const shortened = (path: string): string =>
  path.length <= LONGEST_PATH ? path : `${path.slice(0, LONGEST_PATH / 2)} … ${path.slice(-LONGEST_PATH / 2)}`;
