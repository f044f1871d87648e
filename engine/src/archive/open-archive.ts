import { pipeline } from 'node:stream/promises';
import { explain, ProblemError } from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { createWriteStream, rmSync } from '../disk/files.js';
import { newScratch } from '../disk/scratch.js';
import { ARCHIVE_ENDING, type Archive, type ArchiveEntry, type Refused } from './archive.js';
import { openTar } from './open-tar.js';
import { openZip } from './open-zip.js';

/** Archives in archives are opened this deep; deeper ones stay as they are. */
const MOST_DEPTH = 3;

const openOne = (path: string): Promise<Archive> => (/\.(zip|kmz)$/i.test(path) ? openZip(path) : openTar(path));
/** All archives in an archive together may take this much of the disk when it is opened; those beyond stay packed. */
const MOST_INNER_BYTES = 512 << 20;

/** A KMZ is a dataset of its own, and stays packed when it is in another archive. */
const isInner = (path: string): boolean => ARCHIVE_ENDING.test(path) && !/\.kmz$/i.test(path);

/**
 * Opens an archive with all archives that are in it; theirs are unpacked into a folder of the system's that goes when it is
 * closed. Throws `wrong-use` where the ending is not known, `bad-bag` where it cannot be read.
 */
export async function openArchive(path: string, depth = 0, room = { bytes: MOST_INNER_BYTES }): Promise<Archive> {
  if (!ARCHIVE_ENDING.test(path))
    throw new ProblemError({
      code: 'wrong-use',
      message: `${basename(path)} is no archive that can be opened here (zip, kmz, tar, tar.gz).`,
    });
  const outer = await openOne(path);
  const inner = depth < MOST_DEPTH ? outer.entries.filter((e) => isInner(e.path) && (room.bytes -= e.bytes) >= 0) : [];
  if (inner.length === 0) return outer;
  const folder = newScratch('inner');
  const opened: { prefix: string; archive: Archive }[] = [];
  const refused: Refused[] = [...outer.refused];
  const left: ArchiveEntry[] = outer.entries.filter((e) => !inner.includes(e));
  let n = 0;
  try {
    await outer.read(new Set(inner.map((e) => e.path)), async (entry, content) => {
      const file = join(folder, `${n++}-${basename(entry.path)}`);
      await pipeline(content, createWriteStream(file));
      try {
        opened.push({ prefix: `${entry.path.replace(ARCHIVE_ENDING, '')}/`, archive: await openArchive(file, depth + 1, room) });
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        refused.push({ path: entry.path, why: explain(error.problem) });
      }
    });
  } catch (error) {
    rmSync(folder);
    outer.close();
    throw error;
  }
  const all = opened.flatMap(({ prefix, archive }) => archive.entries.map((e) => ({ ...e, path: prefix + e.path })));
  return {
    entries: [...left, ...all],
    refused: [...refused, ...opened.flatMap(({ prefix, archive }) => archive.refused.map((r) => ({ ...r, path: prefix + r.path })))],
    read: async (wanted, take, onDamaged) => {
      await outer.read(wanted, take, onDamaged);
      for (const { prefix, archive } of opened) {
        const named = (entry: ArchiveEntry): ArchiveEntry => ({ ...entry, path: prefix + entry.path });
        const below = new Set([...wanted].filter((w) => w.startsWith(prefix)).map((w) => w.slice(prefix.length)));
        const told = onDamaged && ((entry: ArchiveEntry, error: unknown): void => onDamaged(named(entry), error));
        await archive.read(below, (entry, content) => take(named(entry), content), told);
      }
    },
    close: () => {
      for (const { archive } of opened) archive.close();
      outer.close();
      rmSync(folder);
    },
  };
}
