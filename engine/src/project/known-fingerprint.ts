import { existsSync } from 'node:fs';
import type { Fingerprint } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { mkdirSync, readFileSync, renameSync, writeFileSync } from '../disk/files.js';
import { versionOf } from '../disk/cache-folder.js';
import type { FoundDataset } from './find-dataset.js';
import { fullFingerprint } from '../fingerprint/full-fingerprint.js';

/** The full fingerprint of a dataset, read once for each state of its files and kept below the data folder. */
export function knownFingerprint(found: FoundDataset, dataFolder: string): Fingerprint {
  const folder = join(dataFolder, 'cache', 'fingerprints');
  const path = join(folder, `${versionOf(found)}.json`);
  if (existsSync(path)) return JSON.parse(readFileSync(path, 'utf8')) as Fingerprint;
  const made = fullFingerprint(found.folder, found.dataset);
  mkdirSync(folder, { recursive: true });
  writeFileSync(`${path}.part`, JSON.stringify(made));
  renameSync(`${path}.part`, path);
  return made;
}
