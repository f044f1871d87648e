import { fingerprintOf, hashRaster, readFullPart, type Dataset, type Fingerprint } from '@rootmap/core';
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

/** Checksum of what the files of a dataset hold, as its whole fingerprint has it; '' where there is none. */
export function contentHash(folder: string, dataset: Dataset): string {
  const { group } = dataset;
  if (group.format !== 'geotiff' && group.format !== 'image') return readWhole(folder, dataset).fingerprint.hash ?? '';
  const platform = platformBelow(folder); // of pixels nothing else need be known
  try {
    return hashRaster(group, (path) => platform.open(path), platform.newHasher);
  } finally {
    platform.close();
  }
}

export const fullFingerprint = (folder: string, dataset: Dataset): Fingerprint => readWhole(folder, dataset).fingerprint;
