import { Transform } from 'node:stream';
import { crc32 } from 'node:zlib';
import { statSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import { basename } from '../disk/native-path.js';
import { ZipReader, type ZipEntry } from '../zip/zip-reader.js';
import { takeOne, type Archive, type ArchiveEntry, type Refused } from './archive.js';

/** What grows to more than this many times its size, and to more than this many bytes, is an attack on the disk and no data. */
const MOST_GROWTH = 1032; // deflate cannot do more (zlib.net, technical details)
const LEAST_BOMB_BYTES = 64 << 20;

/** A zip (zip64 too) or a KMZ. */
export async function openZip(path: string): Promise<Archive> {
  const zip = await ZipReader.open(path).catch((error: unknown) => {
    throw archiveProblem(path, error);
  });
  const refused: Refused[] = zip.refused.map((r) => ({ path: r.path, why: r.problem }));
  const files = zip.entries.filter((e) => !e.isFolder);
  const packed = files.reduce((sum, e) => sum + e.packedBytes, 0);
  // Entries that share their packed bytes add up to more than the file has.
  const overlaps = packed > statSync(path).size;
  const good = files.filter((e) => {
    const why = overlaps ? 'its packed bytes overlap those of others, as in an archive made to flood a disk' : whyBomb(e);
    if (why) refused.push({ path: e.name, why });
    return why === null;
  });
  const byPath = new Map(good.map((e) => [e.name, e]));
  return {
    entries: good.map((e): ArchiveEntry => ({ path: e.name, bytes: e.bytes, modifiedMs: e.modifiedMs })),
    refused,
    read: async (wanted, take, onDamaged) => {
      for (const entry of good) {
        if (!wanted.has(entry.name)) continue;
        const checked = new CrcCheck(byPath.get(entry.name)!);
        zip.stream(entry.name).then(
          (content) => content.on('error', (error: Error) => checked.destroy(archiveProblem(entry.name, error))).pipe(checked),
          (error: unknown) => checked.destroy(archiveProblem(entry.name, error)),
        );
        await takeOne({ path: entry.name, bytes: entry.bytes, modifiedMs: entry.modifiedMs }, checked, take, onDamaged);
      }
    },
    close: () => zip.close(),
  };
}

function whyBomb(e: ZipEntry): string | null {
  const growth = e.bytes / Math.max(1, e.packedBytes);
  return growth > MOST_GROWTH && e.bytes > LEAST_BOMB_BYTES ? `it claims to grow ${Math.round(growth)} times, which no packing does` : null;
}

/** The reader below speaks of bundles; here it is any archive. */
export function archiveProblem(path: string, error: unknown): Error {
  if (error instanceof ProblemError && error.problem.code === 'bad-bag') return bad(path, error.problem.why);
  if (error instanceof ProblemError || /^E[A-Z]+$/.test((error as { code?: string }).code ?? '')) return error as Error;
  return bad(path, (error as Error).message);
}
const bad = (path: string, why: string): ProblemError =>
  new ProblemError({ code: 'bad-archive', file: basename(path), why: `it is damaged (${why.replace(/\.+$/, '')})` });

/** Passes bytes on and compares their CRC-32 with the stated one at the end: the reader below checks only their number. */
class CrcCheck extends Transform {
  private crc = 0;
  constructor(private readonly entry: ZipEntry) {
    super({ readableHighWaterMark: 1 << 18, writableHighWaterMark: 1 << 18 });
  }
  override _transform(piece: Buffer, _encoding: string, done: (error: Error | null, piece?: Buffer) => void): void {
    this.crc = crc32(piece, this.crc);
    done(null, piece);
  }
  override _flush(done: (error: Error | null) => void): void {
    const isWhole = this.crc === this.entry.crc;
    done(
      isWhole
        ? null
        : new ProblemError({
            code: 'bad-archive',
            file: basename(this.entry.name),
            why: 'its checksum is not the one that the archive states',
          }),
    );
  }
}
