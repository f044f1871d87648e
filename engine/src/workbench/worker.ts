import { setPriority } from 'node:os';
import { parentPort, workerData } from 'node:worker_threads';
import { ProblemError } from '@rootmap/core';
import { diskProblem } from '../disk/disk-problem.js';
import type { Progress } from './task-base.js';
import { runTask, type TaskName, type Tasks } from './tasks.js';

const port = parentPort;
if (!port) throw new Error('worker.js runs in a worker thread only');
const { dataFolder, niceness } = workerData as { dataFolder: string; niceness: number };
// Only Linux has a niceness for each thread; elsewhere the whole server would step back.
if (process.platform === 'linux' && niceness > 0) setPriority(niceness);
const PROGRESS_MS = 100;

port.on('message', (message: { id: number; name: TaskName; input: Tasks[TaskName]['in'] }) => {
  let last = 0;
  const progress: Progress = (item, done, of = 0) => {
    if (Date.now() - last < PROGRESS_MS) return;
    last = Date.now();
    port.postMessage({ id: message.id, progress: { item, done, of } });
  };
  runTask(message.name, message.input, dataFolder, progress).then(
    (value) => port.postMessage({ id: message.id, value }),
    (error: unknown) => {
      const problem = error instanceof ProblemError ? error.problem : diskProblem(error, (error as { path?: string }).path ?? 'A file');
      port.postMessage({
        id: message.id,
        problem: problem ?? { code: 'failed', what: `The task ${message.name}`, why: String(error) },
        stack: problem ? null : (error as Error).stack,
      });
    },
  );
});
