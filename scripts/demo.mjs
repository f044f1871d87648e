// npm run demo [-- --port N] [-- --fresh]: installs, builds, makes the demo data once, starts, prints the address.
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { build } from './build.mjs';
import { install } from './install.mjs';
import { node, root } from './lib.mjs';

const { values } = parseArgs({
  options: {
    port: { type: 'string', default: '4870' },
    fresh: { type: 'boolean', default: false },
    folder: { type: 'string', default: join(root, '.demo') },
  },
});
await install();
await build();
const { demoPlaces, placesSetting, startStandIns } = await import('../demo/dist/bundle/running.js');
const folder = values.folder;
const made = join(folder, 'made');
const isNew = values.fresh || !existsSync(made);
if (isNew) {
  const { makeDemo } = await import('../demo/dist/index.js');
  await makeDemo(folder);
  mkdirSync(join(folder, 'data'), { recursive: true });
  writeFileSync(made, '1\n');
}
// Servers that stand in for those of offices and publishers: on this machine only.
const STAND_IN_PORT = 4880;
const standIns = await startStandIns({ port: STAND_IN_PORT }).catch(() => startStandIns());
process.stdout.write(`Servers of others are stood in for at ${standIns.address}: docs/services.md tells which.\n`);
const env = {
  ...process.env,
  ROOTMAP_DATA: join(folder, 'data'),
  ROOTMAP_PLACES: placesSetting(demoPlaces(folder)),
  ROOTMAP_DEMO: folder,
  ROOTMAP_STANDINS: `${standIns.address},${standIns.secure}`,
  ROOTMAP_HOSTS: [standIns.address, standIns.secure, standIns.address.replace('127.0.0.1', 'localhost')]
    .map((a) => new URL(a).host)
    .join(','),
  ROOTMAP_PORT: values.port,
  ROOTMAP_LOG: process.env.ROOTMAP_LOG ?? 'warn',
};
const server = spawn(node, ['server/dist/bundle/main.js'], { cwd: root, stdio: ['ignore', 'pipe', 'inherit'], env });
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('exit', (code) => void standIns.stop().finally(() => process.exit(code ?? 0)));
let opened = false;
server.stdout.on('data', async (data) => {
  const address = /http:\/\/\S+/.exec(String(data))?.[0];
  if (address && isNew && !opened) {
    opened = true;
    for (const path of ['gis/world_outline', 'gis/ellisande_seagrass'])
      await fetch(`${address}/api/projects`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ place: 'desk', path }),
      });
  }
  process.stdout.write(data);
});
