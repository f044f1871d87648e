import { statSync } from 'node:fs';

/**
 * What a file or folder is on its disk, whatever it is called there: device, inode and time of birth, so that an inode that
 * was given away again is told. A rename keeps it; a copy has another. Null: nothing there, no time of birth is kept, or the
 * file has several names (hard links), of which none is the one.
 */
export function objectId(path: string): string | null {
  try {
    const stat = statSync(path, { bigint: true });
    if (stat.birthtimeNs <= 0n || (stat.isFile() && stat.nlink > 1n)) return null;
    return `${stat.dev}:${stat.ino}:${stat.birthtimeNs}`;
  } catch {
    return null; // what cannot be looked at is not known again
  }
}
