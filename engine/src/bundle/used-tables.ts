import { rmSync } from '../disk/files.js';
import { stageContainer } from '../geodatabase/tables/stage-tables.js';

/** A geodatabase of which only some tables go along. Real paths. */
export interface TablesTask {
  readonly from: string;
  /** Tables that stay out. */
  readonly without: readonly string[];
  readonly to: string;
}

/** Makes a copy without tables, given back without the room that they took; the others must have as many rows as before. */
export function copyWithoutTables({ from, without, to }: TablesTask): void {
  const half = `${to}.half`;
  const quiet = (): void => undefined;
  stageContainer(
    { target: to, from, work: 'edit', operations: without.map((table) => ({ kind: 'drop', table })), planned: [] },
    half,
    quiet,
  );
  try {
    stageContainer({ target: to, from: half, work: 'compact', operations: [], planned: [] }, to, quiet);
  } finally {
    rmSync(half);
  }
}
