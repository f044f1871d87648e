#!/usr/bin/env node
import { existsSync } from 'node:fs';

const bundle = new URL('../dist/bundle/main.js', import.meta.url);
const main = existsSync(bundle) ? bundle : new URL('../dist/main.js', import.meta.url);
if (!existsSync(main)) {
  process.stderr.write('rootmap is not built yet: run "npm run setup" once.\n');
  process.exit(3);
}
// Whoever reads it may have seen enough, as `head` has: what is left to say is said to nobody, and the work goes on.
for (const stream of [process.stdout, process.stderr])
  stream.on('error', (error) => {
    if (error.code !== 'EPIPE') throw error;
  });
const { run } = await import(main.href);
process.exitCode = await run(process.argv.slice(2));
