import { join } from './native-path.js';
/** Grids of shifts between datums are the person's own: none ships with the app. They lie in this folder of the data folder. */
const NAME = 'grids';
let folder: string | null = null;

export const gridsBelow = (dataFolder: string): string => join(dataFolder, NAME);
export function setGridsFolder(to: string | null): void {
  folder = to;
}
/** Null: nobody has said where they are. */
export const gridsFolder = (): string | null => folder;
