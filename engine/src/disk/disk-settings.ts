import { currentBounds, setBounds, type Bounds } from './bounds.js';
import { scratch, setScratch } from './scratch.js';

/** What every process and thread must know before it touches the disk; can be cloned to another one. */
export interface DiskSettings {
  readonly bounds: Bounds | null;
  readonly scratch: string;
}

export const diskSettings = (): DiskSettings => ({ bounds: currentBounds(), scratch: scratch() });

export function useDiskSettings(settings: DiskSettings): void {
  setBounds(() => settings.bounds);
  setScratch(settings.scratch);
}
