import { PROJECT_NOTES } from '@rootmap/core';
import { isMissing } from '../disk/disk-problem.js';
import { MOST_NOTE_BYTES, readFileSync } from '../disk/files.js';
import { join } from '../disk/native-path.js';

/** The file of a project's notes; null: there is none. Throws `too-large` where it is one that nobody wrote by hand. */
export function readProjectNotes(root: string): Buffer | null {
  try {
    return readFileSync(join(root, PROJECT_NOTES), null, MOST_NOTE_BYTES);
  } catch (error) {
    if (isMissing(error)) return null;
    throw error;
  }
}
