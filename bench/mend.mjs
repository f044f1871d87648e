// The matcher against the truth of damaged worlds, then its speed: 20,000 broken layers against 50,000 datasets.
import { rmSync, mkdtempSync, writeFileSync, mkdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { EXPLAINED, matchLayers, writeMapFile } from '@rootmap/core';
import {
  choicesOf,
  ChangeDisk,
  explainBroken,
  findPacked,
  findScope,
  openPlace,
  movesOnDisk,
  planMend,
  planRemember,
  readMaps,
  runChange,
  withObjects,
} from '@rootmap/engine';
import { openIndex } from '@rootmap/engine/index-store';
import { openStore, SqlJournal } from '@rootmap/engine/store';
import { Measure } from './damage.mjs';
import { median, report } from './lib.mjs';
import { writeDoc } from './write-doc.mjs';

const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-mend-'));
const scopeOf = ({ places, root }) => findScope(root, { places: places.map(openPlace), root });
const propose = async (world, options = {}) => {
  const work = explainBroken(scopeOf(world), [], options);
  const packed = await findPacked(work);
  const told = new Set(
    work.proposals.flatMap((p) => (EXPLAINED.includes(p.verdict) || p.candidates[0]?.kinds.has('hash') ? [p.layer] : [])),
  );
  return work.view.layers.map((l) => ({
    map: l.map,
    layer: l.layer,
    verdict: l.verdict,
    path: (told.has(l.key) ? null : packed.get(l.key)?.[0]?.archive) ?? l.candidates[0]?.path ?? null,
    searched: work.view.searched.folders,
  }));
};
const remember = (world) => {
  for (const step of planRemember(scopeOf(world), 'bench').change?.steps ?? []) writeFileSync(step.path, step.after);
};
/** Seeds that nothing was developed on. */
const WORLDS = [...Array.from({ length: 60 }, (_, i) => [2001 + i, 60]), [2101, 500], [2102, 500], [2103, 1000], [2104, 2000]];
const soundData = (world) =>
  readMaps(scopeOf(world))
    .maps.flatMap((m) => m.layers)
    .filter((l) => l.judgement.state === 'sound' && l.judgement.resolved !== null)
    .map(({ judgement: j }) => ({ path: j.resolved, table: j.table }));
/** Worlds in which downloads, backups and originals are kept. */
const keeping = async (isWatched) => {
  const measure = new Measure();
  for (const [seed, datasets] of WORLDS.slice(0, 40)) {
    const where = join(folder, String(seed));
    const index = await openIndex(join(folder, `${seed}-${isWatched}.sqlite`));
    const options = isWatched ? { movesSeen: (sought, reached) => movesOnDisk(sought, reached, index) } : {};
    const watch = (world) => {
      remember(world);
      index.noteSeen(withObjects(soundData(world)), Date.now());
    };
    await measure.run(where, seed, datasets, (world) => propose(world, options), watch, { keepsCopies: true, isWatched });
    await index.close();
    rmSync(where, { recursive: true, force: true });
  }
  return measure;
};
const measured = async (isRemembered) => {
  const measure = new Measure();
  for (const [seed, datasets] of WORLDS) {
    const where = join(folder, String(seed));
    await measure.run(where, seed, datasets, propose, isRemembered ? remember : undefined);
    rmSync(where, { recursive: true, force: true });
  }
  return measure;
};
const show = (title, measure) => {
  const { cases, told, right, wrongCertain } = measure.total;
  console.log(`${title}: ${measure.datasets} datasets, ${cases} damaged layers`);
  for (const line of measure.lines()) console.log(line);
  for (const w of measure.wrong.slice(0, 20))
    console.log(`wrong: seed ${w.seed}, ${w.what.damage}, ${w.verdict}: ${w.what.truth} taken for ${w.path}`);
  report(`${title}: wrongly called certain`, wrongCertain, 0, '');
  report(`${title}: told wrongly, of what can be told`, (100 * (told - right)) / told, title === 'without fingerprints' ? 5 : 0.5, ' %');
  return measure;
};
const full = show('with fingerprints', await measured(true));
report('layers that cannot be told, of all', 100 * (1 - full.total.told / full.total.cases), 20, ' %');
report('kinds of damage with fewer than 30 cases', [...full.byDamage.values()].filter((t) => t.cases < 30).length, 0, '');
const bare = show('without fingerprints', await measured(false));
const blind = show('with copies kept', await keeping(false));
const watched = show('with copies kept, seen before', await keeping(true));
const document = [
  '# How well mending tells where data went',
  '',
  'Printed by `npm run bench -- mend`. The worlds are made, damaged and judged by `engine/test/damage/`,',
  "which use nothing of the app's own code; the seeds are not those that the matcher was developed on. A layer _can be told_ when its",
  'dataset is in reach and no other dataset there has the same content (in the same format, unless the data changed its format). Right',
  'means that the first proposal is the truth; precision is the share of right ones among proposals that are likely or certain; a',
  '`certain` counts as wrong when it is not the truth, and also when it is, but could not be known from what was looked through. Decoys (other content under the',
  'same name), equal copies, copies with one edit, yearly and generalised editions and equal shapes with another table stand among the',
  'data of every world. Of data that is damaged, lost a companion or stands on a place that is away, the copy that is left is the truth;',
  'what is still packed is told by naming its archive.',
  '',
  `## With fingerprints`,
  '',
  ...full.lines(),
  '',
  '## Without fingerprints (maps from before)',
  '',
  'Here a layer can be told when its dataset kept its name, but for spelling, and nothing else in reach is called so.',
  '',
  ...bare.lines(),
  '',
  '## With copies kept',
  '',
  'In these worlds the download with its archive, copies for backup, or the originals of converted tables are kept. Most of what',
  'was moved cannot be told by its content then.',
  '',
  ...blind.lines(),
  '',
  '## With copies kept, and seen before',
  '',
  'The app saw the data where it was: what was only moved or renamed is known again by what it is on the disk, whatever copies there are.',
  '',
  ...watched.lines(),
  '',
];
await writeDoc('measured-mending.md', document.join('\n'));

// Speed of the matcher alone: pure computing, on this one thread.
const print = (n, over = {}) => ({
  v: 1,
  format: 'shapefile',
  geometryType: ['Point', 'LineString', 'Polygon'][n % 3],
  count: 10 + (n % 997),
  vertices: 100 + n,
  fields: [
    ['id', 'integer'],
    [`f${n % 50}`, 'text'],
  ],
  extent: [n % 5000, n % 7000, (n % 5000) + 50 + (n % 13), (n % 7000) + 90],
  crs: 'EPSG:32624',
  raster: null,
  bytes: { '.shp': 1000 + n },
  modified: null,
  grid: n.toString(16).padStart(64, '0'),
  hash: `sha256:${n}`,
  ...over,
});
/** Folders of 25 datasets, a tenth of the names used again elsewhere; of the layers most moved with their folders, some were renamed. */
const job = (broken, datasets) => {
  const name = (n) => (n % 10 === 0 ? `common_${n % 400}.shp` : `data_${n}.shp`);
  const targets = Array.from({ length: datasets }, (_, n) => ({
    location: {
      place: 'desk',
      segments: ['p', n % 3 === 0 ? 'archive' : 'received', `topic_${Math.floor(n / 25)}`, n % 17 === 0 ? `renamed_${n}.shp` : name(n)],
    },
    table: null,
    fingerprint: print(n),
    damaged: false,
  }));
  const layers = Array.from({ length: broken }, (_, i) => {
    const n = (i * 7) % datasets;
    return {
      key: `l${i}`,
      map: { place: 'desk', segments: ['p', 'maps', `m${Math.floor(i / 20)}.owc.json`] },
      title: `L${i}`,
      recorded: { space: 'desk', segments: ['old', `topic_${Math.floor(n / 25)}`, name(n)] },
      steps: ['..', '..', 'old', `topic_${Math.floor(n / 25)}`, name(n)],
      table: null,
      fingerprint: i % 4 === 0 ? null : print(n),
      needs: [],
      throughLink: null,
      isHere: null,
    };
  });
  return { layers, targets };
};
const seconds = (broken, datasets) => {
  const { layers, targets } = job(broken, datasets);
  const times = Array.from({ length: 3 }, () => {
    const started = performance.now();
    const plan = matchLayers(layers, targets);
    if (plan.proposals.filter((p) => p.verdict !== 'none').length < broken * 0.9) throw new Error('the matcher found too little');
    return (performance.now() - started) / 1000;
  });
  return median(times);
};
const small = seconds(1_000, 2_500);
const middle = seconds(5_000, 12_500);
const large = seconds(20_000, 50_000);
console.log(`1,000 layers ${small.toFixed(3)} s, 5,000 layers ${middle.toFixed(3)} s, 20,000 layers ${large.toFixed(3)} s`);
report('20,000 broken layers against 50,000 datasets', large, 2, ' s');
report('time a layer, 20,000 against 5,000', large / 20_000 / (middle / 5_000), 1.6, ' x');
report('memory of the process after it', process.memoryUsage().rss / 2 ** 20, 1024, ' MiB');

// Applying: 1,000 map files of 20 layers whose data folder was renamed, journal on.
const root = join(folder, 'apply', 'p');
mkdirSync(join(root, 'maps'), { recursive: true });
mkdirSync(join(root, 'new'), { recursive: true });
writeFileSync(join(root, 'p.rootmap.json'), JSON.stringify({ format: 'rootmap-project/1', id: 'b', name: 'p', title: 'Bench' }));
const point =
  '{"type":"FeatureCollection","features":[{"type":"Feature","geometry":{"type":"Point","coordinates":[1,2]},"properties":{"a":1}}]}';
for (let n = 0; n < 40; n++) writeFileSync(join(root, 'new', `data_${n}.geojson`), point);
for (let m = 0; m < 1000; m++) {
  const layers = Array.from({ length: 20 }, (_, i) => ({
    id: `l${i}`,
    title: `L${i}`,
    format: 'geojson',
    href: `../old/data_${(m + i) % 40}.geojson`,
  }));
  writeFileSync(
    join(root, 'maps', `m${m}.owc.json`),
    writeMapFile({ id: `m${m}`, title: `M${m}`, updated: '2026-01-01T00:00:00Z', crs: 'EPSG:4326', storedForm: 'relative', layers }),
  );
}
const store = await openStore(join(folder, 'data'));
const place = { name: 'place', folder: join(folder, 'apply'), driveNames: [] };
const work = explainBroken(scopeOf({ places: [place], root }));
const change = planMend(work, choicesOf(work, 'certain'), 'bench');
if (change?.steps.length !== 1000) throw new Error(`${change?.steps.length} maps would be mended, not 1,000`);
const loop = monitorEventLoopDelay({ resolution: 5 });
loop.enable();
const started = performance.now();
await runChange(change, { journal: new SqlJournal(store), disk: new ChangeDisk(), program: 'bench' });
report('mending 1,000 map files of 20 layers, journal on', (performance.now() - started) / 1000, 5, ' s');
report('longest hold-up of the event loop meanwhile', loop.max / 1e6, 50, ' ms');
await store.destroy();
rmSync(folder, { recursive: true, force: true });
