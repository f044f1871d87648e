import { expect, test } from '@jest/globals';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { useExample } from '../test/use-example.js';

const { at, rootmap } = useExample();

interface Listed {
  readonly changes: readonly {
    readonly id: string;
    readonly title: string;
    readonly state: string;
    readonly files: number;
    readonly kind: string;
  }[];
}
const changes = (...more: string[]): Listed['changes'] => (rootmap('journal', '--json', ...more).json() as Listed).changes;
const project = (): { links: { name: string }[] } => JSON.parse(readFileSync(at('p/check.rootmap.json'), 'utf8')) as never;

test('where data came from is written down, listed, found in the journal, undone and done again', () => {
  const file = at('p/originals/field/2025/light_007.shp');
  const bare = rootmap('origins', file, '--json');
  expect([bare.status, bare.json()]).toMatchObject([1, { origins: [{ origin: null, findings: [{ code: 'no-origin' }] }], applied: false }]);
  const set = ['--set', 'publisher=Harbour Office', '--set', 'licence=CC-BY-4.0', '--set', 'notes=a=b'];
  // Without --apply nothing is written.
  expect(rootmap('origins', file, ...set, '--json').json()).toMatchObject({ applied: false });
  const record = at('p/originals/field/2025/datapackage.json');
  expect([existsSync(record), changes()]).toEqual([false, []]);
  const written = rootmap('origins', file, ...set, '--apply', '--json');
  expect([written.status, written.json()]).toMatchObject([
    0,
    { applied: true, origins: [{ findings: [], origin: { publisher: 'Harbour Office', notes: 'a=b' } }] },
  ]);
  const bytes = readFileSync(record, 'utf8');
  const [change] = changes(at('p'), '--kind', 'origin');
  expect(change).toMatchObject({ title: 'Write down where a dataset came from', state: 'done', files: 1 });
  expect([changes('--kind', 'move'), changes('--find', 'came from').length]).toEqual([[], 1]);
  // Shown before, undone, and the undo undone.
  const shown = rootmap('undo', change!.id, '--json');
  expect([shown.status, shown.json(), existsSync(record)]).toMatchObject([
    0,
    { title: 'Undo: Write down where a dataset came from', applied: null, kept: [] },
    true,
  ]);
  const undone = rootmap('undo', change!.id, '--apply', '--json').json() as { applied: string };
  expect(existsSync(record)).toBe(false);
  expect(rootmap('undo', change!.id)).toMatchObject({ status: 2, err: expect.stringContaining('it was undone before') });
  rootmap('undo', undone.applied, '--apply');
  expect(readFileSync(record, 'utf8')).toBe(bytes);
  // What somebody edited since stays, and is named.
  rootmap('origins', file, '--set', 'title=Lights', '--apply');
  writeFileSync(record, `${readFileSync(record, 'utf8')} `);
  const kept = rootmap('undo', changes()[0]!.id, '--json');
  expect([kept.status, kept.json()]).toMatchObject([1, { back: [], kept: [{ path: record }] }]);
});

test('what cannot be set is a sentence, and nothing is written', () => {
  const file = at('p/originals/field/2025/light_007.shp');
  for (const set of ['colour=red', 'publisher', '=x', 'isReobtainable=no'])
    expect(rootmap('origins', file, '--set', set, '--apply')).toMatchObject({ status: 2, err: expect.stringContaining('sets nothing') });
  expect(rootmap('origins', at('p/none.shp'))).toMatchObject({ status: 2 });
  expect(changes()).toEqual([]);
});

test('a folder is linked by name, listed with where it is, and dropped; a link that is away is told', () => {
  mkdirSync(at('library'));
  writeFileSync(at('library/a.csv'), 'id\n1\n');
  const before = project().links.length;
  const add = ['links', at('p'), '--add', at('library'), '--name', 'base', '--note', 'for all'];
  rootmap(...add);
  expect(project().links).toHaveLength(before);
  expect(rootmap(...add, '--apply', '--json').json()).toMatchObject({ applied: true, title: 'Link base' });
  const list = rootmap('links', at('p'), '--json').json() as { links: { name: string; folder: string | null; note: string }[] };
  expect(list.links.find((l) => l.name === 'base')).toMatchObject({ folder: at('library'), note: 'for all' });
  expect(rootmap('links', at('p'), '--drop', 'base', '--apply').status).toBe(0);
  expect(project().links).toHaveLength(before);
  expect(rootmap('links', at('p'), '--add', at('library'))).toMatchObject({ status: 2, err: expect.stringContaining('--name NAME') });
  expect(rootmap('links', at('p'), '--drop', 'none')).toMatchObject({ status: 2 });
});

test('the journal takes a number of changes, and says that there are more', () => {
  for (const publisher of ['A', 'B', 'C'])
    rootmap('origins', at('p/originals/field/2025/light_007.shp'), '--set', `publisher=${publisher}`, '--apply');
  expect(changes('--most', '2').length).toBe(2);
  expect(rootmap('journal', '--most', '2').out).toContain('the latest; --most asks for more');
  expect(rootmap('journal', '--most', 'all')).toMatchObject({ status: 2, err: expect.stringContaining('--most takes a number') });
  // The first stands below two others: it goes with them, or not at all.
  const first = changes().at(-1)!;
  expect(rootmap('undo', first.id, '--apply')).toMatchObject({ status: 2, err: expect.stringContaining('2 later changes stand on it') });
  expect(rootmap('undo', first.id, '--along', '--apply').status).toBe(0);
  expect(existsSync(at('p/originals/field/2025/datapackage.json'))).toBe(false);
  expect(rootmap('undo', 'no-such-change')).toMatchObject({ status: 2, err: expect.stringContaining('There is no change') });
});
