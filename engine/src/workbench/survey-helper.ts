import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { Worker, workerData } from 'node:worker_threads';
import type { SurveyHelper, SurveyShare } from '../survey/survey-index.js';

/** Below this many folders two levels down, a second thread costs more than it brings. */
const WORTHWHILE = 200;
let helper: Worker | null = null;
let nextId = 1;

/** A second thread for large projects: this worker's own helper, started when it is first needed and kept. */
export function helperFor(root: string): SurveyHelper | undefined {
  const { script, dataFolder } = (workerData ?? {}) as { script?: string; dataFolder?: string };
  if (script === undefined || !isLarge(root)) return undefined;
  return (surveyed, confinedTo, part) =>
    new Promise<SurveyShare>((resolve, reject) => {
      const worker = (helper ??= new Worker(new URL(script), { workerData: { dataFolder } }));
      const id = nextId++;
      const end = (act: () => void): void => {
        worker.off('message', onMessage).off('error', onError);
        worker.unref();
        act();
      };
      const onMessage = (reply: { id: number; value?: SurveyShare; problem?: unknown }): void => {
        if (reply.id !== id || (reply.value === undefined && reply.problem === undefined)) return; // progress
        const { value } = reply;
        end(() => (value ? resolve(value) : reject(new Error(`the second thread failed: ${JSON.stringify(reply.problem)}`))));
      };
      const onError = (error: Error): void => {
        helper = null;
        end(() => reject(error));
      };
      worker.on('message', onMessage).on('error', onError);
      worker.ref();
      worker.postMessage({ id, name: 'share', input: { root: surveyed, confinedTo, part } });
    });
}

function isLarge(root: string): boolean {
  let found = 0;
  for (const entry of readdirSync(root, { withFileTypes: true })) {
    if (!entry.isDirectory() || entry.name.startsWith('.')) continue;
    try {
      found += readdirSync(join(root, entry.name), { withFileTypes: true }).filter((e) => e.isDirectory()).length;
    } catch {
      continue; // what may not be opened is told by the survey itself
    }
    if (found >= WORTHWHILE) return true;
  }
  return false;
}
