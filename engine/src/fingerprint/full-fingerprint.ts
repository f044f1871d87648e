import { fingerprintOf, readFullPart, type Dataset, type Fingerprint } from '@rootmap/core';
import { platformBelow } from '../disk/platform.js';

/** The whole fingerprint of a dataset below `folder`: headers known, vertices, grid and hash by one streaming read. */
export function fullFingerprint(folder: string, dataset: Dataset): Fingerprint {
  const platform = platformBelow(folder);
  try {
    return fingerprintOf(dataset.group, dataset, readFullPart(dataset, platform));
  } finally {
    platform.close();
  }
}
