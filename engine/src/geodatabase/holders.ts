import { readdirSync, readFileSync, readlinkSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import { basename } from '../disk/native-path.js';

/** A program that has a file open. */
export interface Holder {
  readonly pid: number;
  readonly program: string;
  readonly canWrite: boolean;
}

/** What SQLite keeps beside a database while it is in use. */
export const BESIDE = ['-wal', '-shm', '-journal'] as const;

/**
 * Other programs that have a geodatabase open, as the system's process table shows them (proc_pid_fd(5), proc_pid_fdinfo(5)). Those of
 * other users may be hidden, and other systems than Linux have no such table: then nobody is seen.
 */
export function holdersOf(path: string, processes = '/proc'): Holder[] {
  const files = new Set([path, ...BESIDE.map((b) => path + b)]);
  return list(processes)
    .filter((name) => /^\d+$/.test(name) && Number(name) !== process.pid)
    .flatMap((pid) => {
      const held = list(`${processes}/${pid}/fd`).filter((fd) => files.has(orEmpty(() => readlinkSync(`${processes}/${pid}/fd/${fd}`))));
      if (held.length === 0) return [];
      const program = orEmpty(() => readFileSync(`${processes}/${pid}/comm`, 'utf8')).trim() || 'a program';
      return [{ pid: Number(pid), program, canWrite: held.some((fd) => isWritable(`${processes}/${pid}/fdinfo/${fd}`)) }];
    });
}

/** `flags:` in octal; its last two bits are the way it was opened (open(2): 0 is for reading only). */
const isWritable = (info: string): boolean => {
  const flags = /^flags:\s*([0-7]+)/m.exec(orEmpty(() => readFileSync(info, 'utf8')));
  return flags !== null && (parseInt(flags[1]!, 8) & 3) !== 0;
};

/** Processes come and go while they are looked at, and not all may be looked at. */
function orEmpty(look: () => string): string {
  try {
    return look();
  } catch {
    return '';
  }
}

function list(folder: string): string[] {
  try {
    return readdirSync(folder);
  } catch {
    return [];
  }
}

/** Throws where another program can write to the file: what it writes would be lost with the file that is replaced. */
export function refuseHeld(path: string): void {
  const writers = holdersOf(path).filter((h) => h.canWrite);
  if (writers.length === 0) return;
  const names = writers.map((h) => `${h.program} (process ${h.pid})`).join(', ');
  throw new ProblemError({
    code: 'wrong-use',
    message: `${basename(path)} is open for writing in ${names}. Close it there and try again: what is written there meanwhile would be lost.`,
  });
}
