// Installs and builds where that is needed, and starts the server on the user's own folders.
import { spawn } from 'node:child_process';
import { build } from './build.mjs';
import { install } from './install.mjs';
import { node, root } from './lib.mjs';

await install();
await build();
const server = spawn(node, ['server/dist/bundle/main.js'], { cwd: root, stdio: 'inherit' });
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('exit', (code) => process.exit(code ?? 0));
