import { setTimeout } from 'node:timers/promises';
import type { DataSource, Logger } from 'typeorm';

const TRIES = 5;
const WAIT_MS = 60;

const nothing = (): void => undefined;
/** What fails is thrown to whoever asked; TypeORM's own words would stand on the console of somebody whose second try did it. */
export const SAYS_NOTHING: Logger = {
  logQuery: nothing,
  logQueryError: nothing,
  logQuerySlow: nothing,
  logSchemaBuild: nothing,
  logMigration: nothing,
  log: nothing,
};

/** Opens a database with its migrations. Two processes may do that at once; TypeORM does not lock, so whoever comes second tries again. */
export async function initialize(make: () => DataSource): Promise<DataSource> {
  for (let attempt = 1; ; attempt++) {
    const source = make();
    try {
      return await source.initialize();
    } catch (error) {
      if (source.isInitialized) await source.destroy();
      if (attempt === TRIES || !/already exists|duplicate column|SQLITE_BUSY|database is locked|UNIQUE constraint/.test(String(error)))
        throw error;
      await setTimeout(WAIT_MS * attempt);
    }
  }
}
