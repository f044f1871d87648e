import { Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import tar from 'tar-stream';
import { createReadStream } from '../disk/files.js';
import { takeOne, type Archive, type ArchiveEntry, type Refused } from './archive.js';
import { EntryNames } from '../zip/entry-names.js';
import { archiveProblem } from './open-zip.js';

/** A tar, packed by gzip or not. It has no directory: it is read through once to know what is in it, and again for its content. */
export async function openTar(path: string): Promise<Archive> {
  const entries: ArchiveEntry[] = [];
  const refused: Refused[] = [];
  const names = new EntryNames();
  await walk(path, (header, content) => {
    content.resume();
    const name = header.name.replace(/^\.\//, '').replace(/\/$/, '');
    const why = whyRefused(name, header.type ?? 'file', names);
    if (why !== null) refused.push({ path: header.name, why });
    else if (header.type !== 'directory') {
      entries.push({ path: name, bytes: header.size ?? 0, modifiedMs: header.mtime?.getTime() ?? 0 });
    }
    return Promise.resolve();
  });
  const byPath = new Map(entries.map((e) => [e.path, e]));
  return {
    entries,
    refused,
    read: async (wanted, take, onDamaged) => {
      const left = new Set(wanted);
      await walk(path, async (header, content) => {
        const entry = byPath.get(header.name.replace(/^\.\//, ''));
        if (entry && left.delete(entry.path)) await takeOne(entry, Readable.from(content), take, onDamaged);
        else content.resume();
      });
    },
    close: () => undefined,
  };
}

function whyRefused(name: string, type: string, names: EntryNames): string | null {
  if (name === '' || name === '.') return type === 'directory' ? null : 'it has no name';
  if (type === 'symlink' || type === 'link') return 'it is a link, which is not unpacked';
  if (type === 'directory') return names.refuse(`${name}/`);
  if (type !== 'file' && type !== 'contiguous-file') return `it is no file but a ${type}`;
  return names.refuse(name);
}

async function walk(path: string, visit: (header: tar.Headers, content: tar.Entry) => Promise<void>): Promise<void> {
  const extract = tar.extract();
  const file = createReadStream(path, { highWaterMark: 1 << 20 });
  const source = /gz$/i.test(path) ? file.pipe(createGunzip()) : file;
  const fail = (error: Error): void => void extract.destroy(error);
  file.on('error', fail);
  source.on('error', fail);
  source.pipe(extract);
  try {
    for await (const entry of extract) await visit((entry as unknown as { header: tar.Headers }).header, entry);
  } catch (error) {
    throw archiveProblem(path, error);
  } finally {
    file.destroy();
  }
}
