import { datasetId, ProblemError } from '@rootmap/core';
import { openDatabase } from '../disk/database.js';
import { join } from '../disk/native-path.js';
import { writeImport } from '../geodatabase/write-import.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import type { Gathering } from './gather.js';

export interface GatherTask {
  readonly gathering: Gathering;
  /** Where the geodatabase is made; nothing stands there. */
  readonly to: string;
}

/** Makes the geodatabase; each table is read back and held against what it is made of. Throws where one is not equal. */
export async function writeGathering({ gathering, to }: GatherTask): Promise<void> {
  const files = [...new Set(gathering.tables.map((t) => t.main))];
  const found = new Map(
    files.flatMap((f) => datasetsOfFile(f).map((d) => [datasetId(join(d.folder, d.dataset.group.path), d.dataset.table), d] as const)),
  );
  const none = `${to}.none`; // there is none to begin with
  const { receipts, failed } = await writeImport(
    (id) => found.get(id)!,
    gathering.items,
    none,
    to,
    () => undefined,
  );
  const wrong = receipts.find((r) => !r.isEqual || r.skipped.length > 0);
  const why = failed[0]?.why ?? (wrong && `${wrong.table}: ${wrong.written} of ${wrong.read} records could be kept as they are`);
  if (why !== undefined) throw new ProblemError({ code: 'failed', what: 'Gathering tables into a geodatabase', why });
  const db = openDatabase(to, { readonly: false });
  try {
    // The same data gives the same bytes: not the moment in which it was made.
    db.prepare('UPDATE gpkg_contents SET last_change = ?').run(new Date(gathering.modifiedMs).toISOString());
  } finally {
    db.close();
  }
}
