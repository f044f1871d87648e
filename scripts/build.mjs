// Compiles, bundles and builds the web app; parts whose sources have not changed are left alone.
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import { isStamped, node, root, run, stamp } from './lib.mjs';

const PACKAGES = ['core', 'engine', 'server', 'cli', 'web', 'demo'];

/** Names, sizes and times of all sources: quick, and enough to know that nothing changed. */
function sourcesKey() {
  const hash = createHash('sha256');
  const visit = (folder) => {
    for (const entry of readdirSync(folder, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
      const path = join(folder, entry.name);
      if (entry.isDirectory()) {
        if (!['node_modules', 'dist'].includes(entry.name)) visit(path);
      } else if (!/\.test\.tsx?$/.test(entry.name)) {
        const s = statSync(path);
        hash.update(`${path}\0${s.size}\0${s.mtimeMs}\0`);
      }
    }
  };
  for (const p of PACKAGES) visit(join(root, p));
  hash.update(readFileSync(join(root, 'scripts', 'bundle.mjs')));
  return hash.digest('hex');
}

/** Text of the web app beside itself as gzip, which the server sends as it is. */
function packAssets() {
  const folder = join(root, 'web/dist/assets');
  for (const name of readdirSync(folder).filter((n) => /\.(js|css)$/.test(n)))
    writeFileSync(join(folder, `${name}.gz`), gzipSync(readFileSync(join(folder, name)), { level: 9 }));
}

const OUTPUTS = [
  'server/dist/bundle/main.js',
  'cli/dist/bundle/main.js',
  'web/dist/index.html',
  'demo/dist/main.js',
  'demo/dist/bundle/running.js',
];

export async function build() {
  const key = sourcesKey();
  if (isStamped('built', key) && OUTPUTS.every((f) => existsSync(join(root, f)))) return;
  await run(node, ['node_modules/typescript-native/bin/tsc', '-b']);
  await run(node, ['scripts/bundle.mjs']);
  await run(node, [join(root, 'node_modules/vite/bin/vite.js'), 'build', '--logLevel', 'warn'], { cwd: join(root, 'web') });
  packAssets();
  stamp('built', key);
}
if (process.argv[1] === fileURLToPath(import.meta.url)) await build();
