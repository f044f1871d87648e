import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { lstat, mkdir, open, readFile, rename, rm, rmdir } from 'node:fs/promises';
import { ProblemError } from '@rootmap/core';
import { isMissing } from '../disk/disk-problem.js';

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
      return await readFile(path);
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

  /** Writes a new file and brings it to the disk. */
  async stage(path: string, bytes: Uint8Array, mode: number): Promise<void> {
    this.before('stage', path);
    const file = await open(path, 'wx', mode);
    try {
      await file.writeFile(bytes);
      this.before('sync', path);
      await file.sync();
    } finally {
      await file.close();
    }
  }

  async rename(from: string, to: string): Promise<void> {
    this.before('rename', to);
    await rename(from, to);
  }

  /** Makes sure that nothing stands at a path; an empty folder gives way. Throws `exists`. */
  async giveWay(path: string): Promise<void> {
    this.before('give way', path);
    if ((await this.modeOf(path)) === null) return;
    try {
      await rmdir(path);
    } catch {
      throw new ProblemError({ code: 'exists', path });
    }
  }

  async makeFolder(path: string): Promise<void> {
    this.before('make folder', path);
    await mkdir(path, { recursive: true });
  }

  /** Brings renames in a folder to the disk. */
  async syncFolder(path: string): Promise<void> {
    this.before('sync folder', path);
    const folder = await open(path, 'r');
    try {
      await folder.sync();
    } finally {
      await folder.close();
    }
  }

  async remove(path: string): Promise<void> {
    this.before('remove', path);
    await rm(path, { recursive: true, force: true });
  }

  async modeOf(path: string): Promise<number | null> {
    try {
      return (await lstat(path)).mode & 0o777;
    } catch (error) {
      if (isMissing(error)) return null;
      throw error;
    }
  }
}

export const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');
