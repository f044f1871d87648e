import { parentPort } from 'node:worker_threads';
import { ProblemError, type Problem } from '@rootmap/core';
import { diskProblem } from '../disk/disk-problem.js';
import { useDiskSettings, type DiskSettings } from '../disk/disk-settings.js';
import { BUNDLE_WORK, type BundleWork } from './bundle-work.js';

export interface WorkOrder {
  readonly disk: DiskSettings;
  readonly kind: keyof BundleWork;
  readonly input: unknown;
}
export type WorkReply =
  { readonly value: unknown } | { readonly bytes: number } | { readonly problem: Problem } | { readonly failed: string };

// One of the threads that pack and check bundles. It needs neither database nor use cases, so that it starts in a moment.
const port = parentPort;
if (!port) throw new Error('bundle-worker.js runs in a worker thread only');
port.on('message', ({ disk, kind, input }: WorkOrder) => {
  useDiskSettings(disk);
  const told = (reply: WorkReply, transfer: ArrayBuffer[] = []): void => port.postMessage(reply, transfer);
  const work = async (): Promise<unknown> => BUNDLE_WORK[kind](input as never, (bytes) => told({ bytes }));
  work().then(
    (value) => {
      const data = (value as { data?: Uint8Array<ArrayBuffer> }).data;
      told({ value }, data ? [data.buffer] : []);
    },
    (error: unknown) => {
      const problem = error instanceof ProblemError ? error.problem : diskProblem(error, (error as { path?: string }).path ?? 'the disk');
      told(problem ? { problem } : { failed: String((error as Error).message) });
    },
  );
});
