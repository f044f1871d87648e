import { mustBeKnown } from '../crs/definitions.js';
import { newGeopackage } from './new-geopackage.js';
import { addSrs } from './schema.js';

/** Fills the staged path of a new geodatabase: no table yet, and the CRS that the project works in. */
export const stageEmpty =
  (crs: string | null) =>
  async (path: string): Promise<void> => {
    mustBeKnown(crs);
    newGeopackage(path, (db) => void addSrs(db, crs));
    return Promise.resolve();
  };
