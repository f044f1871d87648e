import { dirname } from 'node:path';
import type { ChangeRecord, StepRecord } from './change.js';
import { ChangeDisk, sha256 } from './disk.js';
import type { Journal } from './journal-port.js';
import { isGone } from './owner.js';

export interface Recovery {
  readonly change: ChangeRecord;
  readonly outcome: 'finished' | 'taken-back';
  /** Files that neither were as before nor as planned: someone else changed them, and they stay. */
  readonly left: readonly string[];
}

/**
 * At start-up: finishes or takes back changes whose owner is provably gone. One that was still preparing has touched no
 * file of the user's, so only its temporary files go; one that was applying is finished, since all that it needs is on
 * disk. Changes of living processes are not touched.
 */
export async function recoverChanges(journal: Journal, disk = new ChangeDisk()): Promise<Recovery[]> {
  const recovered: Recovery[] = [];
  for (const change of await journal.unfinished()) {
    if (!isGone(change.owner)) continue;
    recovered.push(change.state === 'preparing' ? await tidy(change, journal, disk) : await finish(change, journal, disk));
  }
  return recovered;
}

async function tidy(change: ChangeRecord, journal: Journal, disk: ChangeDisk): Promise<Recovery> {
  for (const step of change.steps) if (step.kind !== 'trash') await disk.remove(step.temp);
  await journal.setState(change.id, 'taken-back', 'The program ended before anything was changed.');
  return { change, outcome: 'taken-back', left: [] };
}

async function finish(change: ChangeRecord, journal: Journal, disk: ChangeDisk): Promise<Recovery> {
  const left: string[] = [];
  for (const step of change.steps) if (!(await finishStep(step, disk))) left.push(step.path);
  for (const folder of new Set(change.steps.map((s) => dirname(s.path)))) await disk.syncFolder(folder);
  const note = left.length
    ? `Finished at the next start; changed by someone else and left: ${left.join(', ')}`
    : 'The program ended midway; finished at the next start.';
  await journal.setState(change.id, 'done', note);
  return { change, outcome: 'finished', left };
}

async function finishStep(step: StepRecord, disk: ChangeDisk): Promise<boolean> {
  const staged = (await disk.modeOf(step.temp)) !== null;
  if (step.kind === 'trash') {
    if (staged) return true;
    if (step.beforeHash !== null && (await disk.hash(step.path)) !== step.beforeHash) return false;
    await disk.makeFolder(dirname(step.temp));
    await disk.rename(step.path, step.temp);
    return true;
  }
  if (step.kind === 'install') {
    if (!staged) return (await disk.modeOf(step.path)) !== null;
    if ((await disk.modeOf(step.path)) !== null) return false;
    await disk.rename(step.temp, step.path);
    return true;
  }
  const now = await disk.read(step.path);
  const hash = now && sha256(now);
  if (hash === step.afterHash) {
    if (staged) await disk.remove(step.temp);
    return true;
  }
  if (hash !== step.beforeHash || !staged || (await disk.hash(step.temp)) !== step.afterHash) {
    if (staged) await disk.remove(step.temp);
    return false;
  }
  await disk.rename(step.temp, step.path);
  return true;
}
