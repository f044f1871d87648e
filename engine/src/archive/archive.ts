import type { Readable } from 'node:stream';

export interface ArchiveEntry {
  /** `/` as separator; of an archive inside the archive: `inner.zip/path`. */
  readonly path: string;
  readonly bytes: number;
  readonly modifiedMs: number;
}

export interface Refused {
  readonly path: string;
  readonly why: string;
}

/** An archive whose directory has been read and checked. Folders are not entries: they are made as they are needed. */
export interface Archive {
  readonly entries: readonly ArchiveEntry[];
  readonly refused: readonly Refused[];
  /**
   * Gives the content of each wanted entry, one after the other. A stream whose bytes are not what the archive states of them
   * fails, and with it the reading.
   */
  read(wanted: ReadonlySet<string>, take: (entry: ArchiveEntry, content: Readable) => Promise<void>): Promise<void>;
  close(): void;
}

/** Endings of what can be opened here. */
export const ARCHIVE_ENDING = /\.(zip|kmz|tar\.gz|tgz|tar)$/i;
