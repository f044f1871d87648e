import { unzipSync } from 'fflate';
import type { ByteSource } from '../bytes/byte-source.js';

/** What is looked at inside a packed document, packed and unpacked; larger ones are not opened for their headers. */
const MOST_BYTES = 128 << 20;

/**
 * Members of a zip that is a document of its own (KMZ, XLSX), by name. Null: it is no zip, is damaged, or holds more than is
 * looked at.
 * @param isWanted told each name
 */
export function unpackMembers(source: ByteSource, isWanted: (name: string) => boolean): Map<string, Uint8Array> | null {
  if (source.sizeBytes > MOST_BYTES) return null;
  let bytes = 0;
  try {
    const members = unzipSync(source.read(0, source.sizeBytes), {
      filter: (file) => {
        if (!isWanted(file.name)) return false;
        bytes += file.originalSize;
        if (bytes > MOST_BYTES) throw new Error('too much');
        return true;
      },
    });
    return new Map(Object.entries(members));
  } catch {
    return null;
  }
}
