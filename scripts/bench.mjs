// npm run bench [-- start|survey|command-line|quiet|undo|moves|duplicates|intake|previews|identify|subset|raster-copies|maps|print|diagram|rehearsal|mend|geodatabase|geodatabase-raster|bundles|services|quality|killed|clients|agreement|windows]: each hot path against its yardstick in the same run.
import { build } from './build.mjs';
import { install } from './install.mjs';

await install();
await build();
const { allOk, calibrate } = await import('../bench/lib.mjs');
console.log(`calibration loop: ${calibrate().toFixed(0)} ms`);
const wanted = process.argv.slice(2);
for (const name of [
  'start',
  'survey',
  'command-line',
  'quiet',
  'undo',
  'moves',
  'duplicates',
  'intake',
  'previews',
  'identify',
  'subset',
  'raster-copies',
  'maps',
  'print',
  'diagram',
  'rehearsal',
  'mend',
  'geodatabase',
  'geodatabase-raster',
  'bundles',
  'services',
  'quality',
  'killed',
  'clients',
  'agreement',
  'windows',
])
  if (wanted.length === 0 || wanted.includes(name)) await import(`../bench/${name}.mjs`);
process.exit(allOk() ? 0 : 1);
