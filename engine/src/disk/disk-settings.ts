import { currentBounds, setBounds, type Bounds } from './bounds.js';
import { gridsFolder, setGridsFolder } from './grids-folder.js';
import { scratch, setScratch } from './scratch.js';

/** What every process and thread must know before it touches the disk; can be cloned to another one. */
export interface DiskSettings {
  readonly bounds: Bounds | null;
  readonly scratch: string;
  /** Where grids of shifts are; null: nowhere. */
  readonly grids: string | null;
}

export const diskSettings = (): DiskSettings => ({ bounds: currentBounds(), scratch: scratch(), grids: gridsFolder() });

export function useDiskSettings(settings: DiskSettings): void {
  setBounds(() => settings.bounds);
  setScratch(settings.scratch);
  setGridsFolder(settings.grids);
}
