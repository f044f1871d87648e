import type { Readable } from 'node:stream';
import { crc32 } from 'node:zlib';
import type { Entry, ZipFile } from 'yauzl';
import { encodingOfCpg, ProblemError } from '@rootmap/core';
import { EntryNames } from './entry-names.js';
import { closeSync, readSync } from '../disk/files.js';
import { openToRead } from '../disk/open.js';
import { openWindowed } from './windowed-zip.js';
import type { Listed } from './local-header.js';
import { END_RECORD_BYTES } from './zip-bytes.js';

export interface ZipEntry extends Listed {
  readonly modifiedMs: number;
  readonly isFolder: boolean;
}

const SYMBOLIC_LINK = 0o120000;
const TYPE_MASK = 0o170000;
/** Far beyond any project; a directory that claims more is an attack on memory. */
const MOST_ENTRIES = 2_000_000;
/** The directory is read from memory, so that each entry calls for the next one; then others have their turn. */
const ENTRIES_A_TURN = 250;

/** An open zip whose directory has been read and checked. Entries that no honest zip has are `refused`, with the reason. */
export class ZipReader {
  private constructor(
    private readonly zip: ZipFile,
    readonly path: string,
    private readonly byName: ReadonlyMap<string, Entry>,
    readonly entries: readonly ZipEntry[],
    readonly refused: readonly { readonly path: string; readonly problem: string }[],
  ) {}

  get fileBytes(): number {
    return this.zip.fileSize;
  }
  /** The comment of the whole file, as bytes. */
  get comment(): Buffer {
    return this.zip.comment as unknown as Buffer; // `decodeStrings: false`
  }

  static async open(path: string): Promise<ZipReader> {
    const zip = await new Promise<ZipFile>((resolve, reject) =>
      openWindowed(path, (error, file) => (error ? reject(asProblem(error, path)) : resolve(file))),
    );
    try {
      const { byName, entries, refused } = await readDirectory(zip, path);
      return new ZipReader(zip, path, byName, entries, refused);
    } catch (error) {
      zip.close();
      throw error;
    }
  }

  /** The entry's bytes, unpacked; a wrong size or checksum of the packing fails the stream. */
  stream(name: string): Promise<Readable> {
    const entry = this.byName.get(name);
    if (!entry) return Promise.reject(new ProblemError({ code: 'bad-bag', path: name, why: 'it is not there' }));
    return new Promise((resolve, reject) =>
      this.zip.openReadStream(entry, (error, stream) => (error ? reject(asProblem(error, name)) : resolve(stream))),
    );
  }

  /** The bytes of the last record, with its comment. */
  end(): Buffer {
    const length = Math.min(this.fileBytes, this.comment.length + END_RECORD_BYTES);
    const bytes = Buffer.alloc(length);
    const fd = openToRead(this.path);
    try {
      readSync(fd, bytes, 0, length, this.fileBytes - length);
    } finally {
      closeSync(fd);
    }
    return bytes;
  }

  close(): void {
    this.zip.close();
  }
}

const asProblem = (error: Error, path: string): Error =>
  /^E[A-Z]+$/.test((error as { code?: string }).code ?? '') ? error : new ProblemError({ code: 'bad-bag', path, why: error.message });

function readDirectory(zip: ZipFile, path: string) {
  return new Promise<{ byName: Map<string, Entry>; entries: ZipEntry[]; refused: { path: string; problem: string }[] }>(
    (resolve, reject) => {
      const byName = new Map<string, Entry>();
      const names = new EntryNames();
      let since = 0;
      const entries: ZipEntry[] = [];
      const refused: { path: string; problem: string }[] = [];
      zip.on('error', (error: Error) => reject(asProblem(error, path)));
      zip.on('end', () => resolve({ byName, entries, refused }));
      zip.on('entry', (entry: Entry) => {
        const name = nameOf(entry);
        const problem = whyRefused(name, entry, names);
        if (problem) refused.push({ path: name, problem });
        else {
          byName.set(name, entry);
          entries.push({
            name,
            rawName: rawNameOf(entry).toString('latin1'),
            offset: entry.relativeOffsetOfLocalHeader,
            method: entry.compressionMethod,
            flags: entry.generalPurposeBitFlag,
            time: entry.lastModFileTime,
            date: entry.lastModFileDate,
            bytes: entry.uncompressedSize,
            packedBytes: entry.compressedSize,
            crc: entry.crc32,
            timestamp: timestampOf(entry),
            modifiedMs: modifiedOf(entry),
            isFolder: name.endsWith('/'),
          });
        }
        if (byName.size + refused.length > MOST_ENTRIES)
          reject(new ProblemError({ code: 'bad-bag', path, why: `it lists more than ${MOST_ENTRIES} files` }));
        else if (++since < ENTRIES_A_TURN) zip.readEntry();
        else {
          since = 0;
          setImmediate(() => zip.readEntry());
        }
      });
      zip.readEntry();
    },
  );
}

/**
 * Names are taken raw, so that a hostile one is refused alone and not the whole zip with it. Bit 11 says UTF-8, else code
 * page 437 is meant (APPNOTE 4.4.4 and D.1); many packers write UTF-8 without saying so, or a Unicode path beside (4.6.9).
 */
function nameOf(entry: Entry): string {
  const raw = rawNameOf(entry);
  const text = raw.toString('utf8');
  if ((entry.generalPurposeBitFlag & 0x0800) !== 0 || Buffer.from(text, 'utf8').equals(raw)) return text;
  const unicode = entry.extraFields.find((f) => f.id === 0x7075);
  if (unicode && unicode.data.length > 5 && unicode.data.readUInt32LE(1) === crc32(raw)) return unicode.data.toString('utf8', 5);
  return CP437.decode(raw);
}
const rawNameOf = (entry: Entry): Buffer => (entry as unknown as { fileName: Buffer }).fileName;
const CP437 = encodingOfCpg('437')!;

function whyRefused(name: string, entry: Entry, names: EntryNames): string | null {
  if (((entry.externalFileAttributes >>> 16) & TYPE_MASK) === SYMBOLIC_LINK) return 'it is a link, which no bundle holds';
  if (entry.generalPurposeBitFlag & 1) return 'it is encrypted';
  return names.refuse(name);
}

function timestampOf(entry: Entry): number | null {
  const field = entry.extraFields.find((f) => f.id === 0x5455);
  return field && field.data.length >= 5 && (field.data[0]! & 1) === 1 ? field.data.readInt32LE(1) : null;
}

/** The extended timestamp where there is one, else the DOS time read as UTC. */
function modifiedOf(entry: Entry): number {
  const seconds = timestampOf(entry);
  if (seconds !== null) return seconds * 1000;
  const d = entry.lastModFileDate;
  const t = entry.lastModFileTime;
  return Date.UTC(1980 + (d >> 9), ((d >> 5) & 15) - 1, d & 31, t >> 11, (t >> 5) & 63, (t & 31) * 2);
}
