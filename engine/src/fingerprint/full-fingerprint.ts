import { fingerprintOf, readFullPart, type Dataset, type Fingerprint } from '@rootmap/core';
import { platformBelow } from '../survey/platform.js';

/** What one streaming read of a dataset below `folder` gives: its whole fingerprint, and rows that are marked deleted. */
export function readWhole(folder: string, dataset: Dataset): { readonly fingerprint: Fingerprint; readonly deletedRows: number } {
  const platform = platformBelow(folder);
  try {
    const full = readFullPart(dataset, platform);
    return { fingerprint: fingerprintOf(dataset.group, dataset, full), deletedRows: full.deletedRows };
  } finally {
    platform.close();
  }
}

export const fullFingerprint = (folder: string, dataset: Dataset): Fingerprint => readWhole(folder, dataset).fingerprint;
