import { isUnsafePath, joined, partsOf } from '@rootmap/core';

/** NAME_MAX of Linux' file systems, in bytes of UTF-8. */
const MOST_BYTES = 255;
const fold = (path: string): string => path.normalize('NFC').toLowerCase();

/** Names of an archive's entries, in their order: what no disk could hold beside what came before is refused, and it alone. */
export class EntryNames {
  private readonly files = new Map<string, string>();
  private readonly folders = new Set<string>();

  /** Why an entry cannot be unpacked; null: it can, and is noted. A folder's name ends with `/`. */
  refuse(name: string): string | null {
    const path = name.replace(/\/$/, '');
    const isFolder = path !== name;
    if (isUnsafePath(path)) return 'the path leads out of the archive';
    const parts = partsOf(path);
    if (parts.some((part) => Buffer.byteLength(part) > MOST_BYTES))
      return `its name is longer than the ${MOST_BYTES} bytes that a disk takes`;
    const above = parts.slice(0, -1).map((_, i) => fold(joined(parts.slice(0, i + 1))));
    const file = above.map((folder) => this.files.get(folder)).find((f) => f !== undefined);
    if (file !== undefined) return `it is below ${file}, which is a file`;
    const folded = fold(path);
    const twin = this.files.get(folded);
    if (!isFolder && this.folders.has(folded)) return 'it is a file where others have a folder';
    if (twin !== undefined)
      return isFolder
        ? `it is a folder where ${twin} is a file`
        : twin === name
          ? 'it is there twice'
          : `it differs only in case from ${twin}`;
    for (const folder of above) this.folders.add(folder);
    if (isFolder) this.folders.add(folded);
    else this.files.set(folded, name);
    return null;
  }
}
