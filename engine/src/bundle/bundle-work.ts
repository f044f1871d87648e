import { statSync } from 'node:fs';
import { checkFiles, type Checked, type CheckTask } from './check-files.js';
import { copyFiles, type Copied, type CopyTask } from './copy-files.js';
import { packFiles, type PackedFile, type ToPack } from './pack-files.js';

import type { GatherTask } from './write-gathering.js';
import type { TablesTask } from './used-tables.js';

/** What threads do for a bundle, by name. Each may tell how many bytes it has done. */
export const BUNDLE_WORK = {
  pack: (input: { readonly files: readonly ToPack[] }): { data: Uint8Array<ArrayBuffer>; files: PackedFile[] } => packFiles(input),
  check: (input: CheckTask, progress: (bytes: number) => void): Promise<Checked> => checkFiles(input, progress),
  copy: (input: CopyTask, progress: (bytes: number) => void): Copied[] => copyFiles(input, progress),
  gather: async (input: GatherTask): Promise<{ readonly bytes: number }> => {
    await (await import('./write-gathering.js')).writeGathering(input);
    return { bytes: statSync(input.to).size };
  },
  /** Loads the database only where it is asked for. */
  tables: async (input: TablesTask): Promise<{ readonly bytes: number }> => {
    (await import('./used-tables.js')).copyWithoutTables(input);
    return { bytes: statSync(input.to).size };
  },
};
export type BundleWork = typeof BUNDLE_WORK;
