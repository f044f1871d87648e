// Bundles the server with its worker, the command line, and what a demo needs to run, so that they start quickly.
import { copyFileSync, rmSync } from 'node:fs';
import { builtinModules } from 'node:module';
import { fileURLToPath } from 'node:url';
import { rolldown } from 'rolldown';

const root = fileURLToPath(new URL('..', import.meta.url));
// Compiled addons cannot be bundled, nor what carries one along; what Nest and TypeORM ask for only when it is installed stays outside too.
const OUTSIDE =
  /^(better-sqlite3|h5wasm\/node|sharp|@img\/.*|@parcel\/watcher|@nestjs\/(websockets|microservices|platform-(?!express).*)|class-(transformer|validator)(\/.*)?|@fastify\/.*|@apollo\/.*|pg|pg-.*|mysql.*|sqlite3|sql\.js|oracledb|mssql|mongodb|redis|ioredis|@sap\/.*|hdb-pool|typeorm-aurora-.*|@google-cloud\/.*|react-native-.*|expo-sqlite|aws-sdk|pnpapi|@swc\/.*|swagger-ui-dist.*|ts-node)$/;

/** TypeORM reads the drivers of all its databases at its start, which is half of what it reads; the app has one. */
const OTHER_DATABASES = /\/typeorm\/driver\/(?!better-sqlite3|sqlite-abstract|types)[^/]+\/[^/]+\.js$/;
const oneDatabase = {
  name: 'one-database',
  load: { filter: { id: OTHER_DATABASES }, handler: () => 'module.exports = {};' },
};

async function bundle(input, dir, name) {
  rmSync(new URL(`../${dir}`, import.meta.url), { recursive: true, force: true });
  const build = await rolldown({
    input,
    cwd: root,
    platform: 'node',
    plugins: [oneDatabase],
    external: (id) => OUTSIDE.test(id) || builtinModules.includes(id.replace(/^node:/, '')),
    logLevel: 'silent',
    tsconfig: false,
  });
  await build.write({
    dir,
    format: 'esm',
    sourcemap: false,
    minify: false,
    entryFileNames: '[name].js',
    chunkFileNames: `${name}-[name]-[hash].js`,
    keepNames: true,
  });
  await build.close();
  for (const font of ['DejaVuSans.ttf', 'DejaVuSans-Bold.ttf'])
    copyFileSync(new URL(`../node_modules/dejavu-fonts-ttf/ttf/${font}`, import.meta.url), new URL(`../${dir}/${font}`, import.meta.url));
  for (const table of [
    'crs.json',
    'crs-area.json',
    'crs-definition.json',
    'crs-dialect.json.gz',
    'crs-flat.json',
    'crs-grids.json',
    'crs-off.json',
    'datum-shift.json',
  ])
    copyFileSync(new URL(`../engine/data/${table}`, import.meta.url), new URL(`../${dir}/${table}`, import.meta.url));
}

export async function bundleAll() {
  const sharing = {
    'half-worker': 'engine/dist/geodatabase/half-worker.js',
    'raster-worker': 'engine/dist/copies/raster-worker.js',
    'share-worker': 'engine/dist/survey/share-worker.js',
    'bundle-worker': 'engine/dist/bundle/bundle-worker.js',
    'netcdf4-child': 'engine/dist/survey/netcdf4-child.js',
    'note-child': 'engine/dist/notes/note-child.js',
  };
  const ofServer = { worker: 'engine/dist/pool/worker.js', 'check-body': 'server/dist/http/check-body.js' };
  await bundle({ main: 'server/dist/main.js', ...ofServer, ...sharing }, 'server/dist/bundle', 'server');
  await bundle({ main: 'cli/dist/main.js', ...sharing }, 'cli/dist/bundle', 'cli');
  await bundle({ running: 'demo/dist/running.js' }, 'demo/dist/bundle', 'demo');
}
if (process.argv[1] === fileURLToPath(import.meta.url)) await bundleAll();
