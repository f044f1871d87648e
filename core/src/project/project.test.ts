import { describe, expect, test } from '@jest/globals';
import { must } from '../problem';
import { BUILT_IN_PLANS, foldersToMake, parseFolderPlan, planPathFault, withParents, writeFolderPlan } from './folder-plan';
import { patchProject } from './patch-project';
import { placeInPlan, type GrownThing } from './place-in-plan';
import { parseProjectFile, writeProjectFile } from './project-file';
import { roleOf } from './roles';

describe('folder plans', () => {
  test('written and read again, every one that ships is the same', () => {
    for (const plan of BUILT_IN_PLANS) expect(must(parseFolderPlan('x', writeFolderPlan(plan)))).toEqual(plan);
  });
  test.each([
    ['{', /line 1/],
    ['[]', /format/],
    ['{"format":"rootmap-folder-plan/1"}', /title/],
    ['{"format":"rootmap-folder-plan/2","title":"t"}', /format/],
    ['{"format":"rootmap-folder-plan/1","title":"t","folders":[{"path":"../x"}]}', /inside the project/],
    ['{"format":"rootmap-folder-plan/1","title":"t","folders":[{"path":"x","role":"king"}]}', /one of originals/],
  ])('%s is told what is wrong', (text, why) => {
    const read = parseFolderPlan('mine.json', text);
    expect(read.ok).toBe(false);
    expect(() => must(read)).toThrow(why);
  });
  test.each([
    ['a/b c', null],
    ['sources/<publisher>', null],
    ['', 'it leads out of the project'],
    ['/abs', 'it leads out of the project'],
    ['a/../b', 'it leads out of the project'],
    ['C:/x', 'it leads out of the project'],
    ['a/.hidden', 'it begins with a dot'],
    ['a/<x>y', 'only a whole name can stand in < >'],
    ['a/ b', 'a name begins or ends with a space'],
  ])('%j: %s', (path, fault) => expect(planPathFault(path)).toBe(fault));
  test('folders that wait for a name are not made; those above a folder are', () => {
    expect(foldersToMake(BUILT_IN_PLANS[1]!).map((f) => f.path)).not.toContain('sources/<publisher>');
    expect(withParents(['a/b/c', 'd', 'a/x'])).toEqual(['a', 'a/b', 'a/b/c', 'a/x', 'd']);
  });
});

describe('roles', () => {
  const folders = { received: 'originals', 'received/drafts': 'working', odd: 'king' };
  test.each([
    ['received', 'originals'],
    ['received/x/y.shp', 'originals'],
    ['received/drafts/y.shp', 'working'],
    ['received_2/y.shp', null],
    ['odd/x', null],
    ['', null],
    ['__proto__/x', null],
  ])('%j has the role %s', (path, role) => expect(roleOf(path, folders)).toBe(role));
});

describe('the project file', () => {
  const text = writeProjectFile({ id: 'i', name: 'n', title: 'T', created: '2026-01-01T00:00:00Z', crs: null, folders: { a: 'maps' } });
  test('members are set and all else stays, byte for byte', () => {
    const odd = text.replace('"title"', '"of:others" :  [1,2 , 3],\n  "title"');
    const now = must(patchProject('x', odd, { status: 'finished', folders: { b: 'results' } }));
    expect(now).toContain('"of:others" :  [1,2 , 3],');
    expect(must(parseProjectFile('x', now))).toMatchObject({ status: 'finished', folders: { b: 'results' }, title: 'T' });
    const back = must(patchProject('x', now, { status: 'open', folders: { a: 'maps' } }));
    expect(must(parseProjectFile('x', back))).toMatchObject({ status: 'open', folders: { a: 'maps' } });
  });
  test('what is damaged or no object is told', () => {
    expect(patchProject('x', '{', { id: 'j' }).ok).toBe(false);
    expect(patchProject('x', '[1]', { id: 'j' }).ok).toBe(false);
  });
  test('rules for names: missing or unknown members have their defaults', () => {
    const of = (naming: unknown) => must(parseProjectFile('x', JSON.stringify({ format: 'rootmap-project/1', id: 'i', naming }))).naming;
    expect(of(undefined)).toEqual({ rules: 'underscore', limit: null, umlauts: 'ae', pattern: null, values: {} });
    expect(of({ rules: 'plain', limit: 13.7, umlauts: 'a', pattern: '{topic}' })).toMatchObject({
      rules: 'plain',
      limit: 13,
      umlauts: 'a',
      pattern: '{topic}',
    });
    expect(of({ rules: 'nice', limit: -1 })).toMatchObject({ rules: 'underscore', limit: null });
  });
});

describe('a place in the plan', () => {
  const thing = (path: string, over: Partial<GrownThing> = {}): GrownThing => ({
    path,
    format: 'shapefile',
    kind: 'vector',
    isRaster: false,
    usedBy: 0,
    ...over,
  });
  const placed = (things: GrownThing[], plan = BUILT_IN_PLANS[0]!) => placeInPlan(things, plan).map((p) => [p.path, p.folder]);
  test('by what a name or a folder says; what says nothing counts as received', () => {
    expect(
      placed([
        thing('roads.shp'),
        thing('roads_clip.shp'),
        thing('Final/limits.shp'),
        thing('m.owc.json', { kind: 'map', format: 'map' }),
        thing('all.gpkg', { format: 'geopackage' }),
        thing('brief.docx', { kind: 'document', format: 'document' }),
        thing('map of the bay.pdf', { kind: 'document', format: 'document' }),
        thing('Downloads/x.zip', { kind: 'document', format: 'document' }),
      ]),
    ).toEqual([
      ['roads.shp', 'received'],
      ['roads_clip.shp', 'derived'],
      ['Final/limits.shp', 'delivered/Final'],
      ['m.owc.json', 'maps'],
      ['all.gpkg', 'geodatabases'],
      ['brief.docx', 'documents'],
      ['map of the bay.pdf', 'exports'],
      ['Downloads/x.zip', 'received/Downloads'],
    ]);
  });
  test('what stands there already stays; a folder that says the same is not doubled', () => {
    expect(placed([thing('received/a.shp'), thing('Maps/b.owc.json', { kind: 'map', format: 'map' }), thing('x/Received/c.shp')])).toEqual([
      ['received/a.shp', null],
      ['Maps/b.owc.json', 'maps'],
      ['x/Received/c.shp', 'received/x'],
    ]);
  });
  test('rasters go where imagery goes, if the plan has such a folder', () => {
    expect(
      placed([thing('photo.tif', { format: 'geotiff', kind: 'raster', isRaster: true }), thing('coast.shp')], BUILT_IN_PLANS[2]),
    ).toEqual([
      ['photo.tif', 'imagery'],
      ['coast.shp', 'base'],
    ]);
  });
  test('a plan without a folder for it leaves it where it is, and says so', () => {
    const [p] = placeInPlan([thing('a.shp')], { folders: [{ path: 'maps', role: 'maps', note: '' }] });
    expect(p).toMatchObject({ folder: null, why: 'the plan has no folder for it' });
  });
});
