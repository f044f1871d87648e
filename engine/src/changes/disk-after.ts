import { lstatSync } from 'node:fs';
import { byCodePoint } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import { hashOf, sha256, type ChangeDisk } from './disk.js';
import type { StepsAhead } from './steps-ahead.js';

/** What planning an undo asks of a disk. */
type SeenDisk = Pick<ChangeDisk, 'identity' | 'isAsStaged' | 'hashTree' | 'hash' | 'read' | 'modeOf'> & {
  /** Whether a folder has nothing in it; true where there is none. */
  isEmpty(path: string): Promise<boolean>;
};

/** The disk as it would be after steps that are planned. */
export class DiskAfter implements SeenDisk {
  constructor(
    private readonly disk: ChangeDisk,
    private readonly ahead: StepsAhead,
  ) {}

  private async of<T>(path: string, now: (path: string) => Promise<T>, bytes: (bytes: Uint8Array) => T, none: T): Promise<T> {
    const origin = this.ahead.origin(path);
    if (origin.kind === 'now') return now(origin.path);
    return origin.kind === 'bytes' ? bytes(origin.bytes) : none;
  }

  async identity(path: string): Promise<string | null> {
    const origin = this.ahead.origin(path);
    if (origin.kind === 'now') return this.disk.identity(origin.path);
    return origin.kind === 'nothing' ? null : 'new';
  }
  isAsStaged(path: string, stamp: string | null): Promise<boolean> {
    return this.of(
      path,
      (now) => this.disk.isAsStaged(now, stamp),
      () => false,
      false,
    );
  }
  /** As `ChangeDisk.hashTree`. */
  async hashTree(path: string): Promise<string | null> {
    const origin = this.ahead.origin(path);
    if (origin.kind === 'nothing') return null;
    if (origin.kind === 'bytes') return sha256(origin.bytes);
    const isFolder = origin.kind === 'folder' || isRealFolder(origin.path);
    if (origin.kind === 'now' && !(isFolder && this.ahead.isConcerned(path))) return this.disk.hashTree(origin.path);
    const parts: string[] = [];
    for (const name of this.names(path).sort(byCodePoint)) {
      const hash = await this.hashTree(join(path, name));
      if (hash !== null) parts.push(name, hash);
    }
    return hashOf('folder', ...parts);
  }
  hash(path: string): Promise<string | null> {
    return this.of(path, (now) => this.disk.hash(now), sha256, null);
  }
  read(path: string): Promise<Buffer | null> {
    return this.of(
      path,
      (now) => this.disk.read(now),
      (bytes) => Buffer.from(bytes),
      null,
    );
  }
  async modeOf(path: string): Promise<number | null> {
    const origin = this.ahead.origin(path);
    return this.ahead.modeAt(path) ?? ('path' in origin ? this.disk.modeOf(origin.path) : null);
  }

  /** Of a folder, with those that are gone by then. */
  private names(path: string): string[] {
    const origin = this.ahead.origin(path);
    return [...new Set([...(origin.kind === 'now' ? namesIn(origin.path) : []), ...this.ahead.arrivals(path)])];
  }

  /** What is in a folder by then, as `ChangeDisk.treeStamps` names it, and none where there is no folder. */
  async namesBelow(path: string, below = ''): Promise<string[]> {
    const found: string[] = [];
    for (const name of this.names(join(path, below))) {
      const origin = this.ahead.origin(join(path, below, name));
      if (origin.kind === 'nothing' || ('path' in origin && (await this.disk.identity(origin.path)) === null)) continue;
      const isFolder = origin.kind === 'folder' || (origin.kind === 'now' && isRealFolder(origin.path));
      found.push(`${below}${name}${isFolder ? '/' : ''}`);
      if (isFolder) found.push(...(await this.namesBelow(path, `${below}${name}/`)));
    }
    return found;
  }

  async isEmpty(path: string): Promise<boolean> {
    for (const name of this.names(path)) if ((await this.identity(join(path, name))) !== null) return false;
    return true;
  }
}

const isRealFolder = (path: string): boolean => lstatSync(path, { throwIfNoEntry: false })?.isDirectory() === true;
const namesIn = (folder: string): string[] => (isRealFolder(folder) ? readdirSync(folder) : []);
