// A bundle is packed, verified and received through the command line, against zip, sha256sum and unzip on the same tree.
import { spawnSync } from 'node:child_process';
import {
  closeSync,
  ftruncateSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { median, report, root } from './lib.mjs';

const { values: asked } = parseArgs({
  options: { large: { type: 'string', default: '2000' }, small: { type: 'string', default: '20000' }, only: { type: 'string' } },
  strict: false,
});
const LARGE_MB = Number(asked.large);
const SMALL_FILES = Number(asked.small);
const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-bundles-'));
const cli = join(root, 'cli', 'bin', 'rootmap.js');

const project = (name) => {
  mkdirSync(join(folder, name), { recursive: true });
  writeFileSync(
    join(folder, name, `${name}.rootmap.json`),
    JSON.stringify({
      format: 'rootmap-project/1',
      id: `5f0c2a54-7e1b-4d09-9a61-3c8f0e6d1b${name.length}0`,
      name,
      title: name,
      folders: {},
      links: [],
    }),
  );
};

/** Seeded numbers that pack about as survey values do. */
function* numbers(seed) {
  for (let x = seed; ;) yield (x = (Math.imul(x, 1664525) + 1013904223) >>> 0);
}

/** Coordinates as doubles, values as text, pixels of a slow surface: what geodata is made of. */
function largeFile(path, megabytes, kind, seed) {
  const fd = openSync(path, 'w');
  const next = numbers(seed);
  const piece = Buffer.alloc(4 << 20);
  for (let mb = 0; mb < megabytes; mb += 4) {
    if (kind === 'doubles')
      for (let at = 0; at < piece.length; at += 8)
        piece.writeDoubleLE(500000 + ((at / 8) % 4000) * 0.25 + (next.next().value % 1000) / 1000, at);
    else if (kind === 'pixels')
      for (let at = 0; at < piece.length; at += 2) piece.writeInt16LE(((at / 2) % 2000) + (next.next().value % 7), at);
    else {
      let at = 0;
      while (at < piece.length)
        at += piece.write(
          `${next.next().value % 90000};${next.next().value % 400}.${next.next().value % 100};"reef ${next.next().value % 50}"\n`,
          at,
        );
    }
    writeSync(fd, piece, 0, Math.min(piece.length, (megabytes - mb) * 2 ** 20));
  }
  closeSync(fd);
}

function makeLarge() {
  project('large');
  const kinds = [
    ['soundings.fgb.bin', 'doubles', 0.3],
    ['surface.tif', 'pixels', 0.3],
    ['values.csv', 'text', 0.2],
  ];
  kinds.forEach(([name, kind, share], i) => largeFile(join(folder, 'large', name), LARGE_MB * share, kind, i + 1));
  const each = 5;
  for (let i = 0; i < (LARGE_MB * 0.2) / each; i++)
    largeFile(join(folder, 'large', `part_${i}.dat`), each, ['doubles', 'pixels', 'text'][i % 3], 100 + i);
}

function makeSmall() {
  project('small');
  const sample = ['shp', 'shx', 'dbf', 'prj', 'cpg'].map((e) => [
    e,
    readFileSync(join(root, 'testdata/open/example_project/working', `fairway_006.${e}`)),
  ]);
  for (let i = 0; i < SMALL_FILES / 5; i++) {
    const at = join(folder, 'small', `area_${Math.floor(i / 100)}`);
    mkdirSync(at, { recursive: true });
    for (const [ending, bytes] of sample) writeFileSync(join(at, `line_${i}.${ending}`), bytes);
  }
}

function run(command, args, options = {}) {
  const started = performance.now();
  const r = spawnSync(command, args, { stdio: ['ignore', 'pipe', 'pipe'], maxBuffer: 1 << 30, cwd: folder, ...options });
  if (r.error) throw r.error;
  if (r.status !== 0 && r.status !== 1) throw new Error(`${command} ${args.join(' ')}: ${String(r.stderr).slice(0, 400)}`);
  return { ms: performance.now() - started, out: String(r.stdout) };
}
const env = { ...process.env, ROOTMAP_DATA: join(folder, 'data') };
function rootmap(...args) {
  const timed = run('/usr/bin/time', ['-f', '%M', process.execPath, cli, ...args], { env });
  return timed.ms;
}
const gone = (...names) => names.forEach((n) => rmSync(join(folder, n), { recursive: true, force: true }));

/** Largest memory of the command line at work, in MB. */
function memoryOf(...args) {
  const r = spawnSync('/usr/bin/time', ['-f', '%M', process.execPath, cli, ...args], { env, cwd: folder });
  return Number(String(r.stderr).trim().split('\n').at(-1)) / 1024;
}

for (const [name, make, runs] of [
  ['small', makeSmall, 3],
  ['large', makeLarge, 1],
].filter(([name]) => (asked.only ?? name) === name)) {
  make();
  const files = () => run('sh', ['-c', `find ${name} -type f -print0 | xargs -0 sha256sum > sums.txt`]).ms;
  const ratios = { pack: [], verify: [], receive: [] };
  for (let i = 0; i < runs; i++) {
    gone('theirs.zip', 'ours.zip', 'ours.receipt.json', 'theirs', 'ours');
    const zip = run('zip', ['-q', '-r', '-6', 'theirs.zip', name]).ms;
    const sums = files();
    const test = run('unzip', ['-q', '-t', 'theirs.zip']).ms;
    const pack = rootmap('pack', name, '--out', 'ours.zip', '--quiet');
    const verify = rootmap('verify', 'ours.zip', '--quiet');
    const unzip = run('unzip', ['-q', 'theirs.zip', '-d', 'theirs']).ms;
    const receive = rootmap('receive', 'ours.zip', '--into', 'ours', '--quiet');
    console.log(
      `${name}: zip ${zip.toFixed(0)}, sha256sum ${sums.toFixed(0)}, unzip -t ${test.toFixed(0)}, unzip ${unzip.toFixed(0)}; pack ${pack.toFixed(0)}, verify ${verify.toFixed(0)}, receive ${receive.toFixed(0)} ms; ${statSync(join(folder, 'theirs.zip')).size} and ${statSync(join(folder, 'ours.zip')).size} bytes`,
    );
    ratios.pack.push(pack / (zip + sums + test));
    ratios.verify.push(verify / sums);
    ratios.receive.push(receive / unzip);
  }
  run('unzip', ['-q', '-t', 'ours.zip']);
  report(`pack of ${name} files, read back, against zip, sha256sum and unzip -t`, median(ratios.pack), 0.7, ' ×');
  report(`verify of ${name} files against sha256sum of the content`, median(ratios.verify), 0.9, ' ×');
  report(`receive of ${name} files against unzip`, median(ratios.receive), 1.2, ' ×');
  gone('ours.zip', 'ours.receipt.json', 'ours', 'theirs', 'theirs.zip');
  report(`memory of pack, ${name} files`, memoryOf('pack', name, '--out', 'ours.zip', '--quiet'), 300, ' MB');
  report(`memory of verify, ${name} files`, memoryOf('verify', 'ours.zip', '--quiet'), 300, ' MB');
  gone('ours.zip', 'ours.receipt.json', name);
}
const SPARSE_BYTES = 4300 * 2 ** 20;
/** A file beyond 4 GiB, for real: sparse here, read by other programs there. */
if ((asked.only ?? 'sparse') === 'sparse') {
  project('sparse');
  const fd = openSync(join(folder, 'sparse', 'depth.bin'), 'w');
  ftruncateSync(fd, SPARSE_BYTES);
  writeSync(fd, Buffer.from('end'), 0, 3, SPARSE_BYTES - 3);
  closeSync(fd);
  rootmap('pack', 'sparse', '--out', 'sparse.zip', '--quiet');
  run('unzip', ['-q', '-t', 'sparse.zip']);
  const size = run('python3', [
    '-c',
    "import zipfile; print(zipfile.ZipFile('sparse.zip').getinfo('sparse/data/depth.bin').file_size)",
  ]).out;
  report('bytes by which a file of 4.2 GiB in a bundle is another for Python', Math.abs(Number(size) - SPARSE_BYTES), 0, '');
}
rmSync(folder, { recursive: true, force: true });
