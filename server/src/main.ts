import { existsSync } from 'node:fs';
import pino from 'pino';
import { explain, ProblemError } from '@rootmap/core';
import { createApp } from './app.js';
import { readConfig } from './config.js';

const startedMs = performance.now();
/** Longer than clients keep a connection that is idle: closed at the moment when one is used again, its request would be lost. */
const KEPT_OPEN_MS = 75_000;

async function main(): Promise<void> {
  const config = readConfig(process.env);
  const log = pino({ level: process.env['ROOTMAP_LOG'] ?? 'info', base: null }, pino.destination({ fd: 2, sync: true }));
  const bundled = new URL('./worker.js', import.meta.url);
  const worker = existsSync(bundled) ? bundled : new URL(import.meta.resolve('@rootmap/engine/worker'));
  const running = await createApp(config, log, worker);
  const server = await running.app.listen(config.port, config.host);
  server.keepAliveTimeout = KEPT_OPEN_MS;
  const address = server.address() as { port: number };
  const shown = config.host.includes(':') ? `[${config.host}]` : config.host;
  process.stdout.write(`Root Map is ready at http://${shown}:${address.port} (${Math.round(performance.now() - startedMs)} ms)\n`);
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.once(signal, () => {
      server.closeAllConnections();
      void running.stop().then(() => process.exit(0));
    });
}

main().catch((error: unknown) => {
  const busy = (error as { code?: string }).code === 'EADDRINUSE';
  const sentence =
    error instanceof ProblemError
      ? explain(error.problem)
      : busy
        ? 'The port is in use. Stop the other program, or choose another with ROOTMAP_PORT.'
        : error instanceof Error
          ? error.message
          : String(error);
  process.stderr.write(`Root Map did not start: ${sentence}\n`);
  if (process.env['ROOTMAP_DEBUG'] && error instanceof Error) process.stderr.write(`${error.stack}\n`);
  process.exit(1);
});
