import { existsSync } from 'node:fs';
import { join } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import { diskSettings } from '../disk/disk-settings.js';
import { AskedThread } from '../threads/asked-thread.js';
import type { SurveyHelper } from './survey-index.js';
import type { ShareReply, ShareRequest } from './share-worker.js';

/** Below this many folders two levels down, a second thread costs more than it brings. */
const WORTHWHILE = 200;
const YOUNG_MB = 24;
let helper: AskedThread<ShareRequest, ShareReply> | null = null;

/**
 * A second thread for large projects: this process's own helper, started when it is first needed and kept. `beside`: where its
 * script stands; nothing there: one thread surveys.
 */
export function helperFor(root: string, beside: string | URL | null): SurveyHelper | undefined {
  const script = beside === null ? null : new URL('share-worker.js', beside);
  if (script === null || !isLarge(root) || !existsSync(script)) return undefined;
  return async (surveyed, confinedTo, part, known) => {
    if (helper === null || helper.isOver)
      helper = new AskedThread(script, failed, { resourceLimits: { maxYoungGenerationSizeMb: YOUNG_MB } });
    const reply = await helper.ask({ disk: diskSettings(), root: surveyed, confinedTo, part, known });
    if ('failed' in reply) throw failed(reply.failed);
    return reply.share;
  };
}

const failed = (why: string): Error => new Error(`the second thread failed: ${why}`);

/** Worth a second thread, and an index of what was read. */
export function isLarge(root: string): boolean {
  let found = 0;
  for (const name of foldersIn(root)) {
    found += foldersIn(join(root, name)).length;
    if (found >= WORTHWHILE) return true;
  }
  return false;
}

/** Names without dot folders; none where it cannot be listed, which the survey itself tells. */
function foldersIn(folder: string): string[] {
  try {
    return readdirSync(folder, { withFileTypes: true }).flatMap((e) => (e.isDirectory() && !e.name.startsWith('.') ? [e.name] : []));
  } catch {
    return [];
  }
}
