import { readFileSync } from 'node:fs';
import type { ChangeRecord, Owner } from './change.js';
import { isLockFree, ownLock } from './owner-lock.js';

const BOOT_ID = '/proc/sys/kernel/random/boot_id';

function readOr(path: string, otherwise: string): string {
  try {
    return readFileSync(path, 'utf8').trim();
  } catch {
    return otherwise; // systems without /proc: told apart by a lock
  }
}

/** Field 22 of /proc/PID/stat: start time in clock ticks since boot. The name (field 2) may contain anything. */
function startTimeOf(pid: number): string {
  const stat = readOr(`/proc/${pid}/stat`, '');
  return stat === '' ? '' : (stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? '');
}

const LOCK = 'lock:';

/** @param startTime empty where the system does not tell: then a lock stands for it */
export const thisProcess = (program: string, startTime = startTimeOf(process.pid)): Owner => ({
  pid: process.pid,
  startTime: startTime === '' ? `${LOCK}${ownLock()}` : startTime,
  bootId: readOr(BOOT_ID, ''),
  program,
});

/** True only where the owner can be proved not to run any more. */
export function isGone(owner: Owner): boolean {
  if (owner.startTime.startsWith(LOCK) && owner.startTime !== LOCK) return isLockFree(owner.startTime.slice(LOCK.length));
  if (owner.bootId !== readOr(BOOT_ID, '')) return true;
  try {
    process.kill(owner.pid, 0);
  } catch (error) {
    return (error as { code?: string }).code === 'ESRCH';
  }
  const started = startTimeOf(owner.pid);
  return owner.startTime !== '' && started !== '' && started !== owner.startTime;
}

/** Changes that this process began and could not bring to an end: they wait, and whoever recovers may take them up. */
const released = new Set<string>();
export const release = (changeId: string): void => void released.add(changeId);

/** True where nobody works on an unfinished change any more. */
export const isLeft = (change: Pick<ChangeRecord, 'id' | 'owner'>): boolean => released.has(change.id) || isGone(change.owner);
