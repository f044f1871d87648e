import { describe, expect, test } from '@jest/globals';
import { broken, print, target } from '../../test/mend-samples.js';
import { matchLayers } from './match-layers.js';
import { NO_DECISIONS, NO_SURROUNDINGS, type BrokenLayer, type MendSurroundings, type SeenMove, type Target } from './types.js';
import { toldOf } from './verdict';

const explain = (layers: readonly BrokenLayer[], targets: readonly Target[], around: Partial<MendSurroundings> = {}) =>
  matchLayers(layers, targets, NO_DECISIONS, { ...NO_SURROUNDINGS, ...around }).proposals;
const inProject = { project: [{ place: 'desk', segments: ['p'] }] };
const pathOf = (t: Target): string => t.location.segments.join('/');
const move = (from: string, to: string): SeenMove => ({
  from: { space: 'desk', segments: from.split('/') },
  to: { space: 'desk', segments: to.split('/') },
  how: 'It is the same folder on the disk that was seen there on 2026-01-05.',
});

describe('a move that was seen', () => {
  const layer = broken('d1.shp', 'p/old', 1);
  const there = target('p/new/d1.shp', 1);
  const copies = [target('downloads/pack/d1.shp', 1), target('p/copy/d1.shp', 1)];
  const seen = [move('p/old', 'p/new')];

  test('counts most: with copies about, the layer is certain, and says why', () => {
    const [without] = explain([layer], [there, ...copies], inProject);
    const [known] = explain([layer], [...copies, there], { ...inProject, seen });
    expect(without!.verdict).not.toBe('certain');
    expect(known).toMatchObject({ verdict: 'certain', choice: null });
    expect(known!.candidates[0]!.target).toBe(there);
    expect(known!.candidates[0]!.evidence).toContain('It is the same folder on the disk that was seen there on 2026-01-05.');
  });
  test('also of a file, and of data that no map remembers', () => {
    const bare = broken('d1.shp', 'p/old', null);
    expect(
      explain([bare], [target('p/old/other.shp', 1), ...copies], { seen: [move('p/old/d1.shp', 'p/old/other.shp')] })[0],
    ).toMatchObject({
      verdict: 'certain',
      candidates: [{ target: { location: { segments: ['p', 'old', 'other.shp'] } } }, {}, {}],
    });
  });
  test('is likely where the data was edited since, and before an equal copy', () => {
    const edited = target('p/new/d1.shp', 1, { print: { hash: 'sha256:edited' } });
    const [known] = explain([layer], [edited, ...copies], { ...inProject, seen });
    expect(known).toMatchObject({ verdict: 'likely' });
    expect(known!.candidates[0]!.target).toBe(edited);
  });
  test('says nothing where two were seen, and nothing of what is ruled out', () => {
    const both = [move('p/old', 'p/new'), move('p/old', 'p/copy')];
    expect(explain([layer], [there, ...copies], { seen: both })[0]!.verdict).not.toBe('certain');
    const other = target('p/new/d1.shp', 1, { print: { geometryType: 'Point', hash: null } });
    expect(explain([layer], [other], { seen })[0]!.verdict).toBe('none');
  });
});

describe('equal copies stand in a stated order', () => {
  const layers = [1, 2, 3].map((n) => broken(`d${n}.shp`, 'p/old', n));
  const best = (proposal: ReturnType<typeof explain>[number] | undefined): string => pathOf(proposal!.candidates[0]!.target);

  test.each<[string, string, string, RegExp]>([
    ['where work is done, before downloads', 'share/x/d1.shp', 'p/downloads/d1.shp', /where work is done/],
    ['in the project, before elsewhere', 'p/x/d1.shp', 'share/x/d1.shp', /in the project/],
    ['beside the old folder, before another', 'p/new/d1.shp', 'p/far/away/d1.shp', /beside the old one/],
  ])('%s', (_, better, other, why) => {
    for (const targets of [
      [better, other],
      [other, better],
    ]) {
      const [p] = explain(
        layers.slice(0, 1),
        targets.map((t) => target(t, 1)),
        inProject,
      );
      expect(best(p)).toBe(better);
      expect(p!.choice).toMatchObject({ equal: 2 });
      expect(p!.choice!.reasons[0]).toMatch(why);
    }
  });
  test('among what was recorded beside it, before alone', () => {
    const beside = [2, 3].map((n) => target(`p/b/d${n}.shp`, n));
    const [p] = explain(layers, [target('p/a/d1.shp', 1), target('p/b/d1.shp', 1), ...beside], inProject);
    expect(best(p)).toBe('p/b/d1.shp');
    expect(p!.choice!.reasons).toEqual(['what was recorded beside it stands beside it here, too']);
  });
  test('two places as good: a choice that nothing decides', () => {
    const [p] = explain(layers.slice(0, 1), [target('p/a/d1.shp', 1), target('p/b/d1.shp', 1)], inProject);
    expect(p).toMatchObject({ verdict: 'possible', choice: { equal: 2, reasons: [] } });
  });
  test('the project against a folder of downloads: likely, never certain', () => {
    const [p] = explain(layers.slice(0, 1), [target('p/a/d1.shp', 1), target('downloads/d1.shp', 1)], inProject);
    expect(p).toMatchObject({ verdict: 'likely', choice: { equal: 2 } });
  });
  test('what is left in a folder of downloads or backups is never certain by its content; where it was recorded there it may be', () => {
    expect(explain(layers.slice(0, 1), [target('downloads/d1.shp', 1)])[0]!.verdict).toBe('likely');
    expect(explain(layers.slice(0, 1), [target('backup 2025/pack/d1.shp', 1)])[0]!.verdict).toBe('likely');
    const recorded = broken('d1.shp', 'downloads/old', 1);
    expect(explain([recorded], [target('downloads/new/d1.shp', 1)])[0]!.verdict).toBe('certain');
    expect(explain(layers.slice(0, 1), [target('uploads_of_tmpl/d1.shp', 1)])[0]!.verdict).toBe('certain');
  });
  test('originals are where data stands that maps draw: alone they are no left copy', () => {
    const roleOf: MendSurroundings['roleOf'] = ({ segments }) => (segments[1] === 'received' ? 'originals' : null);
    expect(explain(layers.slice(0, 1), [target('p/received/d1.shp', 1)], { ...inProject, roleOf })[0]!.verdict).toBe('certain');
  });
  test('originals beside the table that was made of them: the table is the better one', () => {
    const layer = broken('work.gpkg', 'p/old', null, {
      recorded: { space: 'desk', segments: ['p', 'old', 'work.gpkg'] },
      table: 'd1',
      fingerprint: print(1, { format: 'geopackage', hash: 'sha256:t1' }),
    });
    const table = target('p/new/work.gpkg', 1, { table: 'd1', print: { format: 'geopackage', hash: 'sha256:t1' } });
    const original = target('p/data/d1.shp', 1);
    const roleOf: MendSurroundings['roleOf'] = ({ segments }) => (segments[1] === 'data' ? 'originals' : 'working');
    const [p] = explain([layer], [original, table], { ...inProject, roleOf });
    expect(p).toMatchObject({ verdict: 'likely', choice: { equal: 2 } });
    expect(p!.candidates[0]!.target).toBe(table);
    // Where the one that fits better is left among downloads, the place of the other is not passed over in silence.
    const left = target('downloads/work.gpkg', 1, { table: 'd1', print: { format: 'geopackage', hash: 'sha256:t1' } });
    const [q] = explain([layer], [target('p/made/d1.shp', 1), left], { ...inProject, roleOf });
    expect(q!.candidates[0]!.target).toBe(left);
    expect(q!.choice).toMatchObject({ equal: 2, reasons: [] });
    expect(toldOf(q!.choice!)).toMatch(
      /This one fits best by what else is known.*For another speaks where it stands: it stands where work is done/,
    );
    expect(toldOf({ equal: 2, reasons: [], against: [] })).toMatch(/do not tell/);
  });
});
