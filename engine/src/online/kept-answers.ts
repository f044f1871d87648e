import { createHash } from 'node:crypto';
import { statSync } from 'node:fs';
import { join } from '../disk/native-path.js';
import { mkdirSync, readdirSync, readFileSync, renameSync, rmSync, utimesSync, writeFileSync } from '../disk/files.js';

export const MOST_KEPT_BYTES = 256 * 1024 * 1024;
const MOST_ONE = 16 * 1024 * 1024;

/** Answers of servers on the disk, below the data folder: those read longest ago go first when there are too many. */
export class KeptAnswers {
  private bytes: number | null = null;

  constructor(private readonly folder: string) {}

  private path(key: string): string {
    return join(this.folder, createHash('sha256').update(key).digest('hex'));
  }

  /** What was kept and is still fresh; `evenOld`: also what is not. */
  read(key: string, nowMs: number, evenOld = false): Buffer | null {
    const path = this.path(key);
    const stat = statSync(path, { throwIfNoEntry: false });
    if (!stat) return null;
    const all = readFileSync(path, null, MOST_ONE + 8);
    if (all.length < 8) return null;
    if (!evenOld && all.readDoubleLE(0) < nowMs) return null;
    utimesSync(path, new Date(nowMs), new Date(nowMs));
    return all.subarray(8);
  }

  keep(key: string, content: Buffer, untilMs: number): void {
    if (content.length > MOST_ONE) return;
    mkdirSync(this.folder, { recursive: true });
    const head = Buffer.alloc(8);
    head.writeDoubleLE(untilMs);
    const path = this.path(key);
    writeFileSync(`${path}.new`, Buffer.concat([head, content]));
    renameSync(`${path}.new`, path);
    this.bytes = this.total() + content.length + 8;
    if (this.bytes > MOST_KEPT_BYTES) this.tidy();
  }

  /** How much is kept, in bytes. */
  total(): number {
    return (this.bytes ??= this.files().reduce((sum, f) => sum + f.bytes, 0));
  }

  clear(): void {
    rmSync(this.folder);
    this.bytes = 0;
  }

  private files(): { path: string; bytes: number; ms: number }[] {
    if (!statSync(this.folder, { throwIfNoEntry: false })) return [];
    return readdirSync(this.folder).flatMap((name) => {
      const path = join(this.folder, name);
      const stat = statSync(path, { throwIfNoEntry: false });
      return stat ? [{ path, bytes: stat.size, ms: stat.mtimeMs }] : [];
    });
  }

  /** Down to nine tenths, so that the next one does not begin it anew. */
  private tidy(): void {
    const files = this.files().sort((a, b) => a.ms - b.ms);
    let left = files.reduce((sum, f) => sum + f.bytes, 0);
    for (const f of files) {
      if (left <= MOST_KEPT_BYTES * 0.9) break;
      rmSync(f.path);
      left -= f.bytes;
    }
    this.bytes = left;
  }
}
