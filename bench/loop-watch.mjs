// Loaded into a server before it starts: measures how long its event loop is held up, from SIGUSR2 on.
import { writeFileSync } from 'node:fs';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { isMainThread } from 'node:worker_threads';

const told = process.env.ROOTMAP_LOOP_WATCH;
if (isMainThread && !process.send && told) {
  // not in the processes that the server starts
  const RESOLUTION_MS = 5;
  const delay = monitorEventLoopDelay({ resolution: RESOLUTION_MS });
  process.once('SIGUSR2', () => delay.enable());
  process.once('exit', () => {
    delay.disable();
    const figures = { blockMs: delay.max / 1e6, peakMb: process.resourceUsage().maxRSS / 1024 };
    writeFileSync(told, JSON.stringify(figures));
  });
}
