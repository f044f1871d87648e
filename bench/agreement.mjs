// How much of what independent writers wrote is read the same by independent readers, area by area: the outside tests, counted.
// What is not read right must be refused; anything else fails. Kept in docs/measured-data.md.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { report, root } from './lib.mjs';
import { writeDoc } from './write-doc.mjs';

/** Test files whose cases are counted one by one, and what they hold against what. */
const CASES = {
  'engine/src/survey/outside-readers.test.ts': 'Shapes and values of the open data, as ogr2ogr reads them (a case a dataset)',
  'engine/src/export/export.test.ts': 'Exports, as ogr2ogr and the csv module of Python read them (a case a dataset and format)',
  'engine/src/geodatabase/import-rasters.test.ts': 'Rasters in geodatabases, as gdalinfo and gdallocationinfo read them',
  'engine/src/crs/outside-crs.test.ts': 'Texts of CRSs by projinfo, and points by cs2cs',
  'engine/src/copies/copies.test.ts': 'Copies in another CRS, as ogr2ogr computes them',
};
/** Test files that say their own counts. */
const COUNTED = [
  'engine/src/pixels/pixels-outside',
  'engine/src/survey/vectors-outside',
  'engine/src/survey/listed-rasters',
  'engine/src/crs/dialect',
  'engine/src/crs/proven',
  'engine/src/crs/own-crs',
  'engine/src/crs/gigs',
  'core/src/read/text-tables',
];

const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-agreement-'));
const json = join(folder, 'cases.json');
const { stdout } = spawnSync(
  process.execPath,
  [
    '--experimental-vm-modules',
    '--disable-warning=ExperimentalWarning',
    'node_modules/jest/bin/jest.js',
    '--json',
    `--outputFile=${json}`,
    ...Object.keys(CASES),
    ...COUNTED,
  ],
  { cwd: root, stdio: ['ignore', 'pipe', 'ignore'], maxBuffer: 1 << 28, env: { ...process.env, ROOTMAP_OWN_CRS_EVERY: '1' } },
);
const rows = stdout
  .toString()
  .split('\n')
  .filter((line) => line.startsWith('AGREEMENT '))
  .map((line) => JSON.parse(line.slice('AGREEMENT '.length)));
for (const { name, assertionResults } of JSON.parse(readFileSync(json, 'utf8')).testResults) {
  const area = Object.entries(CASES).find(([file]) => name.endsWith(file))?.[1];
  if (!area) continue;
  const agreed = assertionResults.filter((a) => a.status === 'passed').length;
  rows.push({ area, agreed, refused: 0, all: assertionResults.length });
}
rmSync(folder, { recursive: true });
rows.sort((a, b) => (a.area < b.area ? -1 : 1));
const text = `# How data is read, held against others

Printed by \`npm run bench -- agreement\`. What stands on the left is made or said by independent programs, and read by others than the app:
GDAL and PROJ of Debian, Python's csv module. _Refused_ is told to whoever asks, with the reason; anything that is neither the same nor
refused would fail the run.

| what | the same | refused | of |
|---|---|---|---|
${rows.map((r) => `| ${r.area} | ${r.agreed} | ${r.refused} | ${r.all} |`).join('\n')}
`;
await writeDoc('measured-data.md', text);
for (const r of rows) console.log(`${r.area}: ${r.agreed} of ${r.all} the same, ${r.refused} refused`);
report(
  'what is neither the same nor refused',
  rows.reduce((sum, r) => sum + r.all - r.agreed - r.refused, 0),
  0,
  '',
);
