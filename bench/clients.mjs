// Fifty clients for a minute: no error, memory back to what a warm server takes, the event loop never held up for long.
import { cpSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { pathToFileURL } from 'node:url';
import { report, root, Server } from './lib.mjs';

const CLIENTS = 50;
const WARM_MS = 5000;
const LOAD_MS = 60_000;
const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-clients-'));
cpSync(join(root, 'testdata/open/example_project'), join(folder, 'check'), { recursive: true });
const told = join(folder, 'loop.json');
const watch = pathToFileURL(join(root, 'bench', 'loop-watch.mjs')).href;
const server = new Server();
await server.start({ ROOTMAP_PLACES: `desk=${folder},D:`, ROOTMAP_LOOP_WATCH: told, NODE_OPTIONS: `--import ${watch}` });
const { key } = await server.call('POST', 'projects', { place: 'desk', path: 'check' });
const { datasets } = await server.call('POST', `projects/${key}/rescan`);
const asks = [
  () => server.call('GET', `projects/${key}`),
  () => server.call('POST', `projects/${key}/rescan`),
  () => server.call('GET', `projects/${key}/folders`),
  () => server.call('GET', `projects/${key}/sources`),
  () => server.call('GET', 'journal'),
  () => server.call('POST', `projects/${key}/rows`, { dataset: datasets[0].id, from: 0, count: 20 }),
  () => server.call('POST', `projects/${key}/mend/explain`, { search: [], reach: 'near' }),
];
/** Resident memory of the server itself (proc(5)), in KiB. */
const memory = () => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.child.pid}/status`, 'utf8'))[1]);
let answered = 0;
const failed = [];
const load = async (ms) => {
  const end = Date.now() + ms;
  const client = async (_, c) => {
    for (let n = c; Date.now() < end; n++) {
      await asks[n % asks.length]().catch((error) => failed.push(String(error)));
      answered++;
    }
  };
  await Promise.all(Array.from({ length: CLIENTS }, client));
};
await load(WARM_MS);
await wait(2500);
const before = memory();
server.child.kill('SIGUSR2');
await load(LOAD_MS);
await wait(3000);
const after = memory();
await server.halt();
console.log(`${answered} answers, ${failed.length} of them errors ${failed[0] ?? ''}`);
report('50 clients for a minute: errors', failed.length, 0, '');
report('memory afterwards / of a warm server', after / before, 1.2, ' ×');
report('event loop held up by 50 clients', JSON.parse(readFileSync(told, 'utf8')).blockMs, 100, ' ms');
rmSync(folder, { recursive: true, force: true });
rmSync(server.folder, { recursive: true, force: true });
