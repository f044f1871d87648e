import { describe, expect, test } from '@jest/globals';
import { broken, print, target } from '../../test/mend-samples.js';
import { matchLayers } from './match-layers.js';
import { explainPointing, pickInFolder } from './point-out.js';
import { matchNames } from './names.js';
import { NO_DECISIONS, targetKey } from './types.js';
import type { BrokenLayer } from './types.js';

describe('shifts: the smallest set of general explanations', () => {
  test('all data in one other folder: one shift, certain', () => {
    const plan = matchLayers(
      [1, 2, 3].map((n) => broken(`d${n}.shp`, 'p/old', n)),
      [1, 2, 3].map((n) => target(`p/new/d${n}.shp`, n)),
    );
    expect(plan.shifts).toHaveLength(1);
    expect(plan.shifts[0]).toMatchObject({ kind: 'folder', from: { segments: ['p', 'old'] }, to: { segments: ['p', 'new'] } });
    expect(plan.proposals.map((p) => p.verdict)).toEqual(['certain', 'certain', 'certain']);
  });
  test('data split 1 + 1 + 3: exactly three shifts, the widest first', () => {
    const where = ['a', 'b', 'c', 'c', 'c'];
    const plan = matchLayers(
      where.map((_, n) => broken(`d${n}.shp`, 'p/old', n)),
      where.map((f, n) => target(`p/${f}/d${n}.shp`, n)),
    );
    expect(plan.shifts.map((s) => s.layers.length)).toEqual([3, 1, 1]);
    expect(plan.proposals.every((p) => p.verdict === 'certain')).toBe(true);
  });
  test('without fingerprints, three layers that agree are certain, one alone is likely', () => {
    const plan = matchLayers(
      [1, 2, 3].map((n) => broken(`d${n}.shp`, 'p/old', null)),
      [1, 2, 3].map((n) => target(`p/new/d${n}.shp`, n)),
    );
    expect(plan.proposals.map((p) => p.verdict)).toEqual(['certain', 'certain', 'certain']);
    expect(matchLayers([broken('d1.shp', 'p/old', null)], [target('p/new/d1.shp', 1)]).proposals[0]!.verdict).toBe('likely');
  });
  test('the map moved, its data did not: one shift', () => {
    const map = { place: 'desk', segments: ['p', 'maps', 'drafts', 'm.owc.json'] };
    const layers = [
      ['a.shp', ['..', 'data', 'a.shp'], 'p/maps/data'],
      ['b.shp', ['..', 'other', 'b.shp'], 'p/maps/other'],
      ['c.shp', ['c.shp'], 'p/maps/drafts'],
    ] as const;
    const plan = matchLayers(
      layers.map(([name, steps, folder], i) => broken(name, folder, i, { map, steps })),
      [target('p/data/a.shp', 0), target('p/other/b.shp', 1), target('p/maps/c.shp', 2)],
    );
    expect(plan.shifts).toHaveLength(1);
    expect(plan.shifts[0]).toMatchObject({
      kind: 'map-moved',
      from: { segments: ['p', 'maps', 'drafts'] },
      to: { segments: ['p', 'maps'] },
    });
  });
  test('a stick under another letter', () => {
    const layers = [1, 2, 3].map((n) =>
      broken(`d${n}.shp`, 'x', n, { recorded: { space: 'E:', segments: ['dives', `f${n}`, `d${n}.shp`] } }),
    );
    const plan = matchLayers(
      layers,
      [1, 2, 3].map((n) => target(`dives/f${n}/d${n}.shp`, n)),
    );
    expect(plan.shifts).toHaveLength(1);
    expect(plan.shifts[0]).toMatchObject({ from: { space: 'E:', segments: [] }, to: { space: 'desk', segments: [] } });
  });
  test('shapefiles that became tables of one geodatabase', () => {
    const layers = [1, 2].map((n) => broken(`d${n}.shp`, 'p/old', n));
    const plan = matchLayers(
      layers,
      [1, 2].map((n) => target('p/g.gpkg', n, { table: `d${n}`, print: { format: 'geopackage', hash: `sha256:g${n}` } })),
    );
    expect(plan.shifts).toHaveLength(1);
    expect(plan.shifts[0]).toMatchObject({ kind: 'converted', layers: layers.map((l) => l.key) });
  });
  test('a table with another name in the same geodatabase, told by its hash', () => {
    const layer = broken('g.gpkg', 'p', 1, { table: 'old', fingerprint: print(1, { format: 'geopackage' }) });
    const plan = matchLayers(
      [layer],
      [
        target('p/g.gpkg', 1, { table: 'new', print: { format: 'geopackage' } }),
        target('p/g.gpkg', 2, { table: 'other', print: { format: 'geopackage' } }),
      ],
    );
    expect(plan.proposals[0]).toMatchObject({ verdict: 'certain', candidates: [{ target: { table: 'new' } }] });
  });
});

describe('verdicts', () => {
  test('two equal copies are never certain', () => {
    const plan = matchLayers([broken('d.shp', 'p/old', 1)], [target('p/a/d.shp', 1), target('p/b/d.shp', 1)]);
    expect(plan.proposals[0]!.verdict).toBe('possible');
    expect(plan.proposals[0]!.candidates).toHaveLength(2);
  });
  test('renamed, same hash: certain, as a renaming', () => {
    const plan = matchLayers([broken('beds.shp', 'p/old', 1)], [target('p/new/anything.shp', 1), target('p/new/other.shp', 2)]);
    expect(plan.proposals[0]!.verdict).toBe('certain');
    expect(plan.shifts[0]!.kind).toBe('renamed');
  });
  test('an edition (equal count and extent, other vertices) is never certain without a hash', () => {
    const plan = matchLayers(
      [broken('d.shp', 'p/old', 1)],
      [target('p/new/d.shp', 1, { print: { vertices: 55, hash: 'sha256:x', grid: 'f'.padStart(64, '0') } })],
    );
    expect(plan.proposals[0]!.verdict).not.toBe('certain');
  });
  test('another geometry kind, or a needed field missing, is a veto', () => {
    expect(
      matchLayers([broken('d.shp', 'p/old', 1)], [target('p/new/d.shp', 1, { print: { geometryType: 'Point', hash: null } })]).proposals[0]!
        .verdict,
    ).toBe('none');
    expect(matchLayers([broken('d.shp', 'p/old', 1, { needs: ['cover'] })], [target('p/new/d.shp', 1)]).proposals[0]!.verdict).toBe('none');
  });
  test('damaged data is no candidate, and nothing found is none', () => {
    expect(matchLayers([broken('d.shp', 'p/old', 1)], [target('p/new/d.shp', 1, { damaged: true })]).proposals[0]).toMatchObject({
      verdict: 'none',
      candidates: [],
      shift: null,
    });
  });
  test('equal empty datasets prove nothing by their hash', () => {
    const empty = { count: 0, hash: 'sha256:e', extent: null, vertices: 0, grid: null };
    const plan = matchLayers(
      [broken('d.shp', 'p/old', null, { fingerprint: print(1, empty) })],
      [target('p/new/e.shp', 1, { print: empty })],
    );
    expect(plan.proposals[0]!.verdict).not.toBe('certain');
  });
  test('evidence is sentences', () => {
    const [best] = matchLayers([broken('d.shp', 'p/old', 1)], [target('q/old/d.shp', 1)]).proposals[0]!.candidates;
    expect(best!.evidence).toEqual(
      expect.arrayContaining(['Same name, and the last folder of its path too.', 'Same content, byte for byte (hash).']),
    );
    for (const e of best!.evidence) expect(e).toMatch(/^[A-Z0-9].*\.$/);
  });
});

test.each([
  ['roads.shp', 'roads.shp', 'same'],
  ['Roads.shp', 'roads.shp', 'spelling'],
  ['sea grass.shp', 'sea_grass.shp', 'spelling'],
  ['Fähre.shp', 'fahre.shp', 'spelling'],
  ['roads.shp', 'roads_v2.shp', 'suffix'],
  ['roads.shp', 'roads-copy.shp', 'suffix'],
  ['roads.shp', 'roads (1).shp', 'suffix'],
  ['roads.shp', 'rails.shp', 'none'],
  ['a1.shp', 'a2.shp', 'none'],
])('%s and %s: %s', (a, b, match) => expect(matchNames(a, b)).toBe(match));

describe('what people decided before', () => {
  const layer = broken('d1.shp', 'p/old', 1);
  const twins = [target('p/a/d1.shp', 1), target('p/b/d1.shp', 1)];
  test('what was turned down for a layer is not offered to it again, and is to others', () => {
    const rejected = new Set([`${layer.key}\n${targetKey(twins[0]!)}`]);
    const other = broken('d1.shp', 'p/old', 1, { key: 'other' });
    const plan = matchLayers([layer, other], twins, { ...NO_DECISIONS, rejected });
    expect(plan.proposals.map((p) => p.candidates.map((c) => c.target.location.segments[1]).sort())).toEqual([['b'], ['a', 'b']]);
    expect(plan.proposals.map((p) => p.verdict)).not.toContain('certain');
  });
  test('a move that was accepted is evidence for the next map, and says so', () => {
    const accepted = [{ from: { space: 'desk', segments: ['p', 'old'] }, to: { space: 'desk', segments: ['p', 'new'] } }];
    const bare = broken('d1.shp', 'p/old', null);
    const targets = [target('p/new/d1.shp', 1), target('p/else/d1.shp', 2)];
    const [without] = matchLayers([bare], targets).proposals;
    const [with_] = matchLayers([bare], targets, { ...NO_DECISIONS, accepted }).proposals;
    expect(without!.verdict).toBe('possible');
    expect(with_).toMatchObject({ verdict: 'certain' });
    expect(with_!.candidates[0]!.target).toBe(targets[0]);
    expect(with_!.candidates[0]!.evidence).toContain('It moved as you accepted for other layers before.');
  });
  test('it never overrules what the data say', () => {
    const accepted = [{ from: { space: 'desk', segments: ['p', 'old'] }, to: { space: 'desk', segments: ['p', 'new'] } }];
    const edition = target('p/new/d1.shp', 1, { print: { vertices: 55, hash: 'sha256:x', grid: 'f'.padStart(64, '0') } });
    expect(matchLayers([layer], [edition], { ...NO_DECISIONS, accepted }).proposals[0]!.verdict).not.toBe('certain');
  });
});

describe('what nothing but a copy could replace', () => {
  test('data that is here and cannot be used: a proven copy is likely at most, and nothing where its place is absent', () => {
    const copy = [target('p/copy/d1.shp', 1)];
    const verdict = (isHere: BrokenLayer['isHere']) => matchLayers([broken('d1.shp', 'p/old', 1, { isHere })], copy).proposals[0]!;
    expect(verdict('damaged').verdict).toBe('likely');
    expect(verdict('incomplete').verdict).toBe('likely');
    expect(verdict('absent')).toMatchObject({ verdict: 'none', candidates: [{ target: copy[0] }] });
  });
  test('in another format equal shapes are not enough: the values of the table may be others', () => {
    const table = target('p/g.gpkg', 1, { table: 'd1', print: { format: 'geopackage', hash: 'sha256:g1' } });
    expect(matchLayers([broken('d1.shp', 'p/old', 1)], [table]).proposals[0]!.verdict).toBe('likely');
  });
  test('a proof is no proof where an equal table may be the data in its new format', () => {
    const table = target('p/g.gpkg', 1, { table: 'd1', print: { format: 'geopackage', hash: 'sha256:g1' } });
    expect(matchLayers([broken('d1.shp', 'p/old', 1)], [target('p/backup/d1.shp', 1), table]).proposals[0]!.verdict).toBe('possible');
  });
  test('one dataset in many maps does not agree with itself', () => {
    const layers = [1, 2, 3].map((n) => broken('d1.shp', 'p/old', null, { key: `m${n}` }));
    expect(matchLayers(layers, [target('p/new/d1.shp', 1)]).proposals.map((p) => p.verdict)).toEqual(['likely', 'likely', 'likely']);
  });
});

describe('pointing', () => {
  const layers = [1, 2, 3].map((n) => broken(`d${n}.shp`, 'p/old', n));
  const targets = [1, 2].map((n) => target(`p/new/d${n}.shp`, n));
  test('one pointing offers every layer that the same shift explains, and no other', () => {
    const pointed = explainPointing(layers[0]!, targets[0]!, layers, targets);
    expect(pointed.mends.map((m) => m.layer)).toEqual([layers[0]!.key, layers[1]!.key]);
    expect(pointed).toMatchObject({ from: { segments: ['p', 'old'] }, to: { segments: ['p', 'new'] } });
  });
  test('in a folder, the dataset that fits is picked; none where none fits', () => {
    expect(pickInFolder(layers[1]!, targets)).toBe(targets[1]);
    expect(pickInFolder(broken('zzz.shp', 'p/old', 9), [target('p/new/x.shp', 5)])).toBeNull();
  });
});

test('a layer that draws shapes is never offered a bare table, whether or not the map remembers its data', () => {
  const table = target('p/new/d1.dbf', 1, {
    print: { format: 'dbf', geometryType: null, vertices: null, extent: null, grid: null, hash: null },
  });
  for (const n of [1, null]) expect(matchLayers([broken('d1.shp', 'p/old', n)], [table]).proposals[0]!.candidates).toEqual([]);
  const points = target('p/new/d1.csv', 1, { print: { format: 'csv', geometryType: 'Polygon', hash: null } });
  expect(matchLayers([broken('d1.shp', 'p/old', 1)], [points]).proposals[0]!.candidates).toHaveLength(1);
});
