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

export type Take = (entry: ArchiveEntry, content: Readable) => Promise<void>;
export type OnDamaged = (entry: ArchiveEntry, error: unknown) => void;

/** One entry: what goes wrong with it is told where that is asked for, and what is left of it passed over. */
export async function takeOne(entry: ArchiveEntry, content: Readable, take: Take, onDamaged?: OnDamaged): Promise<void> {
  try {
    await take(entry, content);
  } catch (error) {
    if (!onDamaged) throw error;
    content.resume();
    onDamaged(entry, error);
  }
}

/** An archive whose directory has been read and checked. Folders are not entries: they are made as they are needed. */
export interface Archive {
  readonly entries: readonly ArchiveEntry[];
  readonly refused: readonly Refused[];
  /**
   * Gives the content of each wanted entry, one after the other, in one pass. A stream whose bytes are not what the archive states of
   * them fails, and with it the reading; with `onDamaged` that entry is told, and the others have their turn.
   */
  read(wanted: ReadonlySet<string>, take: Take, onDamaged?: OnDamaged): Promise<void>;
  close(): void;
}

/** Endings of what can be opened here. */
export const ARCHIVE_ENDING = /\.(zip|kmz|tar\.gz|tgz|tar)$/i;
