import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { readFeatures, type Dataset, type Value } from '@rootmap/core';
import { TestFolder } from '../../test/test-project.js';
import { tellAgreement } from '../../../core/test/agreement.js';
import { surveyFolder } from './list-datasets.js';
import { platformBelow } from './platform.js';

// Outside reference: datasets that Debian's GDAL (python3-gdal) writes, and what it reads in them (engine/test/matrix/vectors.py):
// shapes to the last bit (ISO/IEC 13249-3 well-known binary), values, records that have no shape, letters.

interface Layer {
  readonly name: string;
  readonly fields: readonly (readonly [name: string, type: string])[];
  readonly records: readonly (readonly [shape: string | null, values: readonly (string | number | null)[]])[];
}
interface Made {
  readonly name: string;
  readonly driver: string;
  readonly file: string;
  readonly layers: readonly Layer[];
}

let t: TestFolder;
let index: readonly Made[];
beforeAll(() => {
  t = new TestFolder();
  execFileSync('/usr/bin/python3', ['engine/test/matrix/vectors.py', t.at('.')], { stdio: 'ignore' });
  index = JSON.parse(readFileSync(t.at('index.json'), 'utf8')) as Made[];
});
afterAll(() => t.remove());

/** Days and times are written in ways that differ: with slashes, with a T, with the zone or without. */
const plain = (v: unknown): string =>
  String(v)
    .replaceAll('/', '-')
    .replace('T', ' ')
    .replace(/(\.000)?(Z|\+00(:00)?)$/, '')
    .replace(/ 00:00:00$/, '');

function isSame(mine: Value, theirs: string | number | null): boolean {
  if (theirs === null || theirs === '') return mine === null || mine === '';
  if (mine instanceof Uint8Array) return Buffer.from(mine).toString('hex') === theirs;
  if (typeof mine === 'boolean') return Number(mine) === Number(theirs);
  if (typeof mine === 'number') return mine === Number(theirs);
  return plain(mine) === plain(theirs);
}

/** Where a dataset is read otherwise first; null: nowhere. */
function difference(d: Dataset, layer: Layer, folder: string): string | null {
  const platform = platformBelow(folder);
  try {
    const { fields, features } = readFeatures(d, platform, { geometry: true, values: true, curves: 'kept' });
    const missing = layer.fields
      .filter(([name]) => !fields.some((f) => isCalled(f.name, name)) && !isOfDriver(layer, name))
      .map(([name]) => name);
    if (missing.length > 0) return `no fields ${missing.join(', ')}`;
    let i = 0;
    for (const feature of features) {
      const record = layer.records[i];
      if (!record) return `more than ${layer.records.length} records`;
      const shape = feature.geometry && Buffer.from(feature.geometry).toString('hex');
      if (shape !== record[0]) return `record ${i}: ${shape} for ${record[0]}`;
      for (const [k, [name]] of layer.fields.entries()) {
        const at = fields.findIndex((f) => isCalled(f.name, name));
        if (at >= 0 && !isSame(feature.values[at]!, record[1][k]!))
          return `record ${i}, ${name}: ${String(feature.values[at])} for ${record[1][k]}`;
      }
      i++;
    }
    if (d.featureCount !== null && d.featureCount !== i) return `said to have ${d.featureCount} records, has ${i}`;
    return i === layer.records.length ? null : `${i} records for ${layer.records.length}`;
  } finally {
    platform.close();
  }
}

/** KML's own elements are spelled otherwise there. */
const isCalled = (mine: string, theirs: string): boolean => mine === theirs || mine === theirs.toLowerCase();

/** What GDAL's readers of KML and GPX show of their formats' own elements, whether the file has them or not. */
const isOfDriver = (layer: Layer, name: string): boolean => {
  const at = layer.fields.findIndex((f) => f[0] === name);
  return layer.records.every(([, values]) => [null, -1, 0, ''].includes(values[at]!));
};

test('every shape and value of every kind of dataset is right, or the dataset is refused', () => {
  const refused: string[] = [];
  const wrong: string[] = [];
  let right = 0;
  for (const made of index) {
    const folder = t.at(made.name);
    const before = readdirSync(folder).sort();
    const { datasets } = surveyFolder(folder);
    for (const [n, layer] of made.layers.entries()) {
      const d = datasets.length === 1 ? datasets[0] : (datasets.find((s) => s.table === layer.name) ?? datasets[n]);
      if (!d) wrong.push(`${made.name}: not found`);
      else if (d.state !== 'ok') refused.push(`${made.name}: ${d.findings.map((f) => f.message).join(' ')}`);
      else {
        const why = difference(d, layer, folder);
        if (why === null) right++;
        else wrong.push(`${made.name}: ${why}`);
      }
    }
    if (readdirSync(folder).sort().join() !== before.join()) wrong.push(`${made.name}: something was left behind`);
  }
  const all = index.reduce((sum, { layers }) => sum + layers.length, 0);
  expect(wrong).toEqual([]);
  expect(refused).toEqual([]);
  expect(all).toBeGreaterThan(400);
  tellAgreement(
    'Points, lines and areas that GDAL writes: formats, kinds, heights, measures, letters, record by record',
    right,
    refused.length,
    all,
  );
}, 120_000);
