import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { readdirSync } from '../disk/files.js';
import { diskSettings } from '../disk/disk-settings.js';
import type { SurveyHelper, SurveyShare } from '../survey/survey-index.js';
import { workerScript } from './worker-script.js';
import type { ShareReply, ShareRequest } from './share-worker.js';

/** Below this many folders two levels down, a second thread costs more than it brings. */
const WORTHWHILE = 200;
const YOUNG_MB = 24;
let helper: Worker | null = null;

/** A second thread for large projects: this worker's own helper, started when it is first needed and kept. */
export function helperFor(root: string): SurveyHelper | undefined {
  const script = workerScript();
  if (script === null || !isLarge(root)) return undefined;
  const worker = (helper ??= new Worker(new URL('share-worker.js', script), { resourceLimits: { maxYoungGenerationSizeMb: YOUNG_MB } }));
  return (surveyed, confinedTo, part, known) =>
    new Promise<SurveyShare>((resolve, reject) => {
      const end = (act: () => void): void => {
        worker.off('message', onMessage).off('error', onError);
        worker.unref();
        act();
      };
      const onMessage = (reply: ShareReply): void =>
        end(() => ('share' in reply ? resolve(reply.share) : reject(new Error(`the second thread failed: ${reply.failed}`))));
      const onError = (error: Error): void => {
        helper = null;
        end(() => reject(error));
      };
      worker.on('message', onMessage).on('error', onError);
      worker.ref();
      worker.postMessage({ disk: diskSettings(), root: surveyed, confinedTo, part, known } satisfies ShareRequest);
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
