import { ProblemError } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { holdWhole, newDatabase } from '../disk/database.js';
import { isSqliteError } from '../geopackage/open-geopackage.js';

/**
 * One server for one data folder: a second one would take away what was dropped on the first. The lock is the operating system's,
 * on a file that SQLite holds, so that it ends with the process however that ends. Gives what lets go of it.
 */
export function lockDataFolder(folder: string): () => void {
  const path = join(folder, 'server.lock');
  const db = newDatabase(path);
  try {
    holdWhole(db);
  } catch (error) {
    db.close();
    if (!isSqliteError(error)) throw error;
    throw new ProblemError({
      code: 'wrong-use',
      message: `Another server uses the data folder ${folder}. Stop that one, or give this one a folder of its own with ROOTMAP_DATA.`,
    });
  }
  return () => void db.close();
}
