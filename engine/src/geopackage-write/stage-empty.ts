import { newGeopackage } from './new-geopackage.js';
import { addSrs } from './schema.js';

/** Fills the staged path of a new geodatabase: no table yet, and the CRS that the project works in. */
export const stageEmpty =
  (crs: string | null) =>
  (path: string): Promise<void> =>
    Promise.resolve(newGeopackage(path, (db) => void addSrs(db, crs)));
