import { realPath } from '../disk/real-path.js';
import { createHash } from 'node:crypto';
import { chmod, lstat, mkdir, readlink, rename, rmdir, symlink } from 'node:fs/promises';
import { byCodePoint, ProblemError } from '@rootmap/core';
import { basename, join, keptBits } from '../disk/native-path.js';
import { isMissing } from '../disk/disk-problem.js';
import type { TreeStamps } from './change.js';
import {
  createReadStream,
  openNew,
  readdirSync,
  readWhole,
  remove,
  syncFolder,
  syncTree,
  withEntry,
  type FileHandle,
} from '../disk/files.js';
import { asEntryLater } from '../disk/open.js';
import { patiently } from '../disk/patience.js';

/** Files that SQLite keeps beside a database (sqlite.org, tempfiles). */
const BESIDE = ['-journal', '-wal', '-shm'];
const COPY_PIECE_BYTES = 1 << 20;

/** Bits and owner of a file. */
export interface Permissions {
  readonly mode: number;
  readonly uid: number;
  readonly gid: number;
}

/** The bits as they were, whatever the process leaves out; the owner where the account may give files away. */
async function keepPermissions(file: FileHandle, { mode, uid, gid }: Permissions): Promise<void> {
  const now = await file.stat();
  if (now.uid !== uid || now.gid !== gid)
    await file.chown(uid, gid).catch((error: unknown) => {
      if ((error as { code?: string }).code !== 'EPERM') throw error; // docs/security.md says so
    });
  await file.chmod(mode); // after the owner, since a change of that clears bits
}

/** Called before every step that touches the disk; a test throws from it to stop there. */
export type StepHook = (step: number, what: string, path: string) => void;

/** Every touch of the disk by a change, numbered in order. */
export class ChangeDisk {
  private step = 0;
  constructor(private readonly hook: StepHook = () => undefined) {}

  private before(what: string, path: string): void {
    this.hook(this.step++, what, path);
  }

  /** Null where nothing is there. */
  async read(path: string): Promise<Buffer | null> {
    this.before('read', path);
    try {
      return await readWhole(path);
    } catch (error) {
      if (isMissing(error)) return null;
      throw error;
    }
  }

  /** Streams; null where nothing is there or it is a folder. */
  async hash(path: string): Promise<string | null> {
    this.before('hash', path);
    const hash = createHash('sha256');
    try {
      for await (const piece of createReadStream(path)) hash.update(piece as Buffer);
    } catch (error) {
      if (isMissing(error) || (error as { code?: string }).code === 'EISDIR') return null;
      throw error;
    }
    return hash.digest('hex');
  }

  /** Writes a new file and brings it to the disk. `like`: whose bits and owner it gets. */
  async stage(path: string, bytes: Uint8Array, like: Permissions | null): Promise<void> {
    this.before('stage', path);
    const file = await openNew(path, like?.mode ?? 0o644);
    try {
      await file.writeFile(bytes);
      if (like) await keepPermissions(file, like);
      this.before('sync', path);
      await file.sync();
    } finally {
      await file.close();
    }
  }

  async rename(from: string, to: string): Promise<void> {
    this.before('rename', to);
    await patiently([from, to], () => asEntryLater(from, (source) => asEntryLater(to, (target) => rename(source, target))));
  }

  /** Makes sure that nothing stands at a path; an empty folder gives way. Throws `exists`. */
  async giveWay(path: string): Promise<void> {
    this.before('give way', path);
    if ((await this.modeOf(path)) === null) return;
    try {
      await asEntryLater(path, (held) => rmdir(held));
    } catch {
      throw new ProblemError({ code: 'exists', path });
    }
  }

  /** Brings renames in a folder to the disk. */
  async syncFolder(path: string): Promise<void> {
    this.before('sync folder', path);
    await syncFolder(path);
  }

  /** Brings all of something that others have staged to the disk. */
  async syncTree(path: string): Promise<void> {
    this.before('sync tree', path);
    await syncTree(path);
  }

  async remove(path: string): Promise<void> {
    this.before('remove', path);
    await patiently([path], () => remove(path));
  }

  /** Removes what was staged, with what a database that was ended left beside it. */
  async removeStaged(path: string): Promise<void> {
    this.before('remove', path);
    for (const ending of ['', ...BESIDE]) await patiently([path + ending], () => remove(path + ending));
  }

  /** Makes one folder; one that is there already is left as it is. Throws `exists` where a file is in the way. */
  async makeOneFolder(path: string): Promise<void> {
    this.before('make folder', path);
    try {
      await asEntryLater(path, (held) => mkdir(held));
    } catch (error) {
      if ((error as { code?: string }).code !== 'EEXIST' || !(await lstat(path)).isDirectory()) throw error;
    }
  }

  /** Removes a folder if it is empty; false where it is not. */
  async dropFolder(path: string): Promise<boolean> {
    this.before('drop folder', path);
    try {
      await patiently([path], () => asEntryLater(path, (held) => rmdir(held)));
      return true;
    } catch (error) {
      if (isMissing(error) || ['ENOTEMPTY', 'EEXIST'].includes((error as { code?: string }).code ?? '')) return false;
      throw error;
    }
  }

  async setMode(path: string, mode: number): Promise<void> {
    this.before('set mode', path);
    await withEntry(path, (held) => chmod(held, mode));
  }

  /** Which file stands there, by device and inode: a rename keeps it. Null: none. */
  async identity(path: string): Promise<string | null> {
    try {
      const { dev, ino } = await lstat(path, { bigint: true });
      return `${dev}:${ino}`;
    } catch (error) {
      if (isMissing(error)) return null;
      throw error;
    }
  }

  /** Which file stands there and how it was written last, so that an edit in place is told; of a folder its identity. */
  async stamp(path: string): Promise<string | null> {
    try {
      const stat = await lstat(path, { bigint: true });
      return `${stat.dev}:${stat.ino}${stat.isFile() ? `:${stat.size}:${stat.mtimeNs}` : ''}`;
    } catch (error) {
      if (isMissing(error)) return null;
      throw error;
    }
  }

  /** The stamps of all that is in a folder; null: it is none. */
  async treeStamps(path: string): Promise<TreeStamps | null> {
    if (!(await lstat(path)).isDirectory()) return null;
    const stamps: Record<string, string> = {};
    const visit = async (below: string): Promise<void> => {
      for (const entry of readdirSync(join(path, below), { withFileTypes: true })) {
        const name = `${below}${entry.name}${entry.isDirectory() ? '/' : ''}`;
        stamps[name] = (await this.stamp(join(path, name))) ?? '';
        if (entry.isDirectory()) await visit(name);
      }
    };
    await visit('');
    return stamps;
  }

  /** What was installed is as it was staged. Changes of earlier versions know the identity only. */
  async isAsStaged(path: string, stamp: string | null): Promise<boolean> {
    const now = await this.stamp(path);
    return stamp !== null && now !== null && (now === stamp || (stamp.split(':').length === 2 && now.startsWith(`${stamp}:`)));
  }

  /** Copies a file or a whole folder to a path that is free, brings it to the disk, and gives the hash of what was read. */
  async copyTree(from: string, to: string, onBytes: (bytes: number, path: string) => void): Promise<string> {
    this.before('copy', to);
    const stat = await lstat(from).catch((error: unknown) => {
      // A name whose bytes are no text comes with marks in their place, and cannot be asked for.
      if (!isMissing(error) || !basename(from).includes('\ufffd')) throw error;
      throw new ProblemError({ code: 'bad-name', name: from, why: 'its bytes are no text in UTF-8, so it cannot be named here' });
    });
    if (stat.isSymbolicLink()) {
      const target = await readlink(from);
      await asEntryLater(to, (held) => symlink(target, held));
      return hashOf('link', target);
    }
    if (stat.isDirectory()) {
      await asEntryLater(to, (held) => mkdir(held));
      const parts: string[] = [];
      for (const name of readdirSync(from).sort(byCodePoint))
        parts.push(name, await this.copyTree(join(from, name), join(to, name), onBytes));
      await this.syncFolder(to);
      return hashOf('folder', ...parts);
    }
    if (!stat.isFile()) throw new ProblemError({ code: 'not-a-file', path: from, what: 'a pipe, a socket or a device' });
    const hash = createHash('sha256');
    const file = await openNew(to, stat.mode & 0o777);
    try {
      for await (const piece of createReadStream(from, { highWaterMark: COPY_PIECE_BYTES })) {
        const bytes = piece as Buffer;
        hash.update(bytes);
        await file.writeFile(bytes);
        onBytes(bytes.length, from);
      }
      await file.utimes(stat.atime, stat.mtime);
      this.before('sync', to);
      await file.sync();
    } finally {
      await file.close();
    }
    return hash.digest('hex');
  }

  /** The hash that `copyTree` gives, of what stands there now; null where nothing does. */
  async hashTree(path: string): Promise<string | null> {
    try {
      const stat = await lstat(path);
      if (stat.isSymbolicLink()) return hashOf('link', await readlink(path));
      if (!stat.isDirectory()) return stat.isFile() ? await this.hash(path) : hashOf('neither file nor folder');
      const parts: string[] = [];
      for (const name of readdirSync(path).sort(byCodePoint)) parts.push(name, (await this.hashTree(join(path, name))) ?? '');
      return hashOf('folder', ...parts);
    } catch (error) {
      if (isMissing(error)) return null;
      throw error;
    }
  }

  /** Where a link leads in the end; the path itself where it is none, or leads nowhere. */
  async targetOf(path: string): Promise<string> {
    try {
      return (await lstat(path)).isSymbolicLink() ? realPath(path) : path;
    } catch (error) {
      if (isMissing(error)) return path;
      throw error;
    }
  }

  async modeOf(path: string): Promise<number | null> {
    return (await this.permissionsOf(path))?.mode ?? null;
  }

  async permissionsOf(path: string): Promise<Permissions | null> {
    try {
      const { mode, uid, gid } = await lstat(path);
      return { mode: keptBits(mode & 0o777), uid, gid };
    } catch (error) {
      if (isMissing(error)) return null;
      throw error;
    }
  }
}

export const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** A hash over several texts, in their order. */
export const hashOf = (...parts: readonly string[]): string => sha256(Buffer.from(JSON.stringify(parts), 'utf8'));
