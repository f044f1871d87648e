import { setPriority } from 'node:os';
import { pathToFileURL } from 'node:url';
import { Worker } from 'node:worker_threads';
import { ProblemError, type OnProgress } from '@rootmap/core';
import { diskProblem } from '../disk/disk-problem.js';
import { useDiskSettings } from '../disk/disk-settings.js';
import { gridsBelow } from '../disk/grids-folder.js';
import { shun, watchReading } from '../geopackage/reading-watch.js';
import { cut, Joined } from './pieces.js';
import type { Order, Reply, TaskMessage } from './pool.js';
import { runTask, type Tasks } from '../tasks/tasks.js';
import { useScript } from '../tasks/worker-script.js';

// A process of the pool: it carries out one task after the other, and ends with whoever started it.
const [, script, dataFolder, scratch, niceness] = process.argv;
if (!process.send || script === undefined || dataFolder === undefined || scratch === undefined)
  throw new Error('worker.js is started by the pool only');
if (Number(niceness) > 0) setPriority(Number(niceness));
useScript(pathToFileURL(script));
const PROGRESS_MS = 100;
const LOOK_MS = 500;

process.on('disconnect', () => process.exit());
// A task that computes without giving way hears of no end: a thread of its own looks whether the parent is still there.
const LOOK = `const { workerData } = require('node:worker_threads');
const isGone = () => { try { process.kill(workerData, 0); return process.platform !== 'win32' && process.ppid !== workerData; } catch { return true; } };
setInterval(() => isGone() && process.kill(process.pid, 'SIGKILL'), ${LOOK_MS});`;
new Worker(LOOK, {
  eval: true,
  workerData: process.ppid,
  resourceLimits: { maxOldGenerationSizeMb: 8, maxYoungGenerationSizeMb: 1 },
}).unref();

const send = (reply: Reply): void => void process.send!(reply);

function carryOut(dataFolder: string, scratch: string, { id, name, bounds, shunned }: TaskMessage, input: unknown): void {
  let last = 0;
  const progress: OnProgress = (now) => {
    if (Date.now() - last < PROGRESS_MS) return;
    last = Date.now();
    send({ id, progress: now });
  };
  useDiskSettings({ bounds, scratch, grids: gridsBelow(dataFolder) });
  shun(shunned);
  watchReading((path) => send({ id, reading: path }));
  runTask(name, input as Tasks[typeof name]['in'], { dataFolder, progress })
    .then((value) => {
      const [outline, ...pieces] = cut(value);
      send({ id, value: outline });
      for (const piece of pieces) send({ id, piece });
      send({ id, ended: null, rssBytes: process.memoryUsage.rss() });
    })
    .catch((error: unknown) => {
      const problem = error instanceof ProblemError ? error.problem : diskProblem(error, (error as { path?: string }).path ?? 'A file');
      send({
        id,
        ended: {
          problem: problem ?? { code: 'failed', what: `The task ${name}`, why: String(error) },
          stack: problem ? null : ((error as Error).stack ?? String(error)),
        },
        rssBytes: process.memoryUsage.rss(),
      });
    });
}

let coming: { readonly task: TaskMessage; readonly input: Joined } | null = null;
process.on('message', (order: Order) => {
  if ('piece' in order) coming?.input.add(order.piece);
  else coming = { task: order, input: new Joined(order.input) };
  if (!coming?.input.isWhole) return;
  const { task, input } = coming;
  coming = null;
  carryOut(dataFolder, scratch, task, input.value);
});
