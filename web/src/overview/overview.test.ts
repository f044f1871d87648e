import { describe, expect, test } from '@jest/globals';
import type { LayerView, ProjectView } from '@rootmap/core/contract';
import { adrift, dataset, layer, map, project } from '../../test/diagram-project.js';
import { qualityRow } from '../../test/quality-row.js';
import { crossingsOf } from './crossings';
import { foldedAtFirst, layoutDiagram } from './layout-diagram';
import { bytesByFolder, nextSteps } from './next-steps';

/** A project by chance: maps that draw on some folders, some of them gone. */
function made(maps: number, layers: number, folders: number, seed: number): ProjectView {
  let state = seed;
  const below = (n: number): number => (state = (state * 48271) % 2147483647) % n;
  const datasets = Array.from({ length: folders * 8 }, (_, n) => ({ ...dataset(n), folder: `data/${n % folders}` }));
  const drawn = Array.from({ length: maps }, (_, m) =>
    map(
      `m${m}`,
      Array.from({ length: layers }, (__, n) => {
        const d = datasets[below(datasets.length)]!;
        const isGone = m % 4 === 0 && below(3) === 0;
        return layer(`m${m}`, n, isGone ? { ...adrift, recordedFolder: `old/${below(3)}` } : { dataset: d.id });
      }),
    ),
  );
  return project(drawn, { datasets });
}
const MADE = [made(4, 5, 3, 11), made(6, 8, 4, 22), made(8, 6, 6, 33), made(10, 10, 5, 44), made(5, 12, 8, 55)];

describe('root diagram', () => {
  test('every layer has one tether, from its row to its dataset or to the ghost of its folder', () => {
    const p = project([map('a', [layer('a', 1), layer('a', 2, adrift), layer('a', 3, adrift)]), map('b', [layer('b', 1)])]);
    const d = layoutDiagram(p, new Set());
    expect(d.threads.map((t) => [t.row, t.target, t.toGhost])).toEqual([
      ['a:1', '/r/data/d1.shp', false],
      ['a:2', 'ghost:old', true],
      ['a:3', 'ghost:old', true],
      ['b:1', '/r/data/d1.shp', false],
    ]);
    expect(d.ghosts).toHaveLength(1);
    for (const t of d.threads) expect(t.toY).toBeGreaterThan(0);
  });
  test('cards and ghosts never lie over each other', () => {
    const maps = ['a', 'b', 'c'].map((m) =>
      map(
        m,
        [1, 2, 3, 4].map((n) => layer(m, n, { ...adrift, recordedFolder: `old ${m} ${n}` })),
      ),
    );
    const d = layoutDiagram(project(maps), new Set());
    for (const nodes of [d.maps, d.ghosts, d.boxes])
      nodes.slice(1).forEach((n, i) => expect(n.y).toBeGreaterThanOrEqual(nodes[i]!.y + nodes[i]!.height));
    expect(d.height).toBeGreaterThanOrEqual(Math.max(...d.ghosts.map((g) => g.y + g.height)));
  });
  test('sources stand in the order of the layers they feed, so that tethers do not cross', () => {
    const d = layoutDiagram(project([map('a', [layer('a', 5), layer('a', 1), layer('a', 9)])]), new Set());
    expect(d.boxes[0]!.rows.filter((r) => r.kind === 'dataset').map((r) => r.label)).toEqual(['d5.shp', 'd1.shp', 'd9.shp']);
  });
  test('no ghost covers a tether that passes to data', () => {
    for (const made of MADE) {
      const d = layoutDiagram(made, new Set());
      const passing = d.threads.filter((t) => !t.toGhost).map((t) => t.fromY);
      for (const g of d.ghosts) expect(passing.filter((y) => y > g.y - 4 && y < g.y + g.height + 4)).toEqual([]);
      d.ghosts.slice(1).forEach((g, i) => expect(g.y).toBeGreaterThanOrEqual(d.ghosts[i]!.y + d.ghosts[i]!.height));
    }
  });
  test('fewer tethers cross than where folders and data stand by name', () => {
    const told = MADE.map((made) => {
      const { threads } = layoutDiagram(made, new Set());
      const toData = threads.filter((t) => !t.toGhost);
      const byName = [...new Set(toData.map((t) => t.target))].sort();
      return [crossingsOf(toData.map((t) => ({ fromY: t.fromY, toY: byName.indexOf(t.target) }))), crossingsOf(toData)];
    });
    for (const [before, after] of told) expect(after).toBeLessThan(before! * 0.8);
    if (process.env['ROOTMAP_TELL'])
      process.stdout.write(`crossings by name and in order: ${told.map((t) => t.join(' to ')).join(', ')}\n`);
  });
  test('a hundred maps with two thousand layers are laid out, and every layer has its tether', () => {
    const large = made(100, 20, 12, 99);
    const d = layoutDiagram(large, foldedAtFirst(large));
    expect(d.threads.flatMap((t) => t.layers)).toHaveLength(2000);
    for (const m of d.maps.filter((n) => n.folded)) expect(m.map.layers.every((l) => l.state === 'sound')).toBe(true);
  });
  test('what is linked, outside or a service has a box of its own outside the root', () => {
    const d = layoutDiagram(
      project(
        [
          map('a', [
            layer('a', 1),
            layer('a', 2, { reach: 'outside', dataset: null }),
            layer('a', 3, { reach: 'service', stored: 'service', href: 'https://x.example/wms', dataset: null }),
          ]),
        ],
        { links: [{ name: 'base', place: 'share', path: '/s', shown: 'S:/', present: false, known: null }] },
      ),
      new Set(),
    );
    expect(d.boxes.map((b) => [b.kind, b.present])).toEqual([
      ['root', true],
      ['link', false],
      ['outside', true],
      ['service', true],
    ]);
  });
  test('many layers fold: sound maps first, into one band for each folder', () => {
    const p = project([
      map(
        'sound',
        Array.from({ length: 20 }, (_, n) => layer('sound', n)),
      ),
      map(
        'broken',
        Array.from({ length: 10 }, (_, n) => layer('broken', n, adrift)),
      ),
    ]);
    const folded = foldedAtFirst(p);
    expect([...folded]).toEqual(['sound']);
    const d = layoutDiagram(p, folded);
    expect(d.maps[0]!.rows).toHaveLength(1);
    expect(d.threads.find((t) => t.count === 20)!.target).toBe('root/data');
    expect(foldedAtFirst(project([map('few', [layer('few', 1)])])).size).toBe(0);
  });
});

describe('what to do next', () => {
  test('worst first: damaged map, adrift, unreadable, different, incomplete, absent, absolute, outside', () => {
    const states = (['incomplete', 'different', 'absent', 'unreadable', 'adrift'] as const).map((state, n) =>
      layer('a', n, { state, ...(state === 'adrift' ? adrift : {}) }),
    );
    const p = project([map('a', [...states, layer('a', 7, { stored: 'absolute' }), layer('a', 8, { reach: 'outside' })])], {
      damaged: [{ path: 'x', message: 'm' }],
    });
    expect(nextSteps(p).map((s) => s.id.split(' ')[0])).toEqual([
      'damaged',
      'adrift',
      'unreadable',
      'different',
      'incomplete',
      'absent',
      'absolute',
      'outside',
    ]);
  });
  test('all sound: send it', () => expect(nextSteps(project([map('a', [layer('a', 1)])]))).toMatchObject([{ to: '/p/k/send' }]));
  test('data: what changed, what is faulty, what nobody looked at; a row a sort, behind the layers', () => {
    const rows = [
      qualityRow('a/one.shp', { state: 'none' }),
      qualityRow('a/two.shp', { fails: 1 }),
      qualityRow('a/three.shp', { state: 'out-of-date', fails: 2 }),
      qualityRow('fine.shp', { state: 'reviewed' }),
      qualityRow('bare.shp', { state: 'reviewed', lacks: ['origin', 'crs'] }),
    ];
    const steps = nextSteps(project([map('a', [layer('a', 1)])]), rows);
    expect(steps.map((s) => [s.title, s.detail, s.to])).toEqual([
      ['1 dataset changed since it was looked at', 'three.shp', '/p/k/quality?only=out-of-date'],
      ['2 datasets have faults', 'two.shp, three.shp', '/p/k/quality?only=to-do&order=worst'],
      ['1 dataset tells no CRS', 'bare.shp', '/p/k/sources?crs=no+CRS'],
      ['1 dataset came in, and nobody wrote down from where', 'bare.shp', '/p/k/sources?state=origin+not+known'],
      ['1 dataset was never looked at', 'one.shp', '/p/k/quality'],
      [expect.stringContaining('Every layer is sound'), expect.anything(), '/p/k/send'],
    ]);
  });
  test('a server is neither a place nor a folder: its layers lead to the services', () => {
    const served = { reach: 'service', stored: 'service', dataset: null, recordedFolder: null } as const;
    const p = project([
      map('a', [
        layer('a', 1, { ...served, state: 'absent', detail: 'it does not answer' }),
        layer('a', 2, { ...served, state: 'adrift' }),
        layer('a', 3, { ...served, state: 'not-asked' }),
      ]),
    ]);
    expect(nextSteps(p)).toMatchObject([
      { title: '2 layers wait for a server', detail: 'it does not answer', to: '/p/k/sources?view=services' },
    ]);
    expect(layoutDiagram(p, new Set()).boxes.find((b) => b.kind === 'service')!.note).toBe('2 not answering, 1 not asked');
  });
  test('a folded map of layers of two servers has a thread to each', () => {
    const at = (n: number, host: string): LayerView =>
      layer('a', n, { reach: 'service', stored: 'service', dataset: null, href: `https://${host}/wms` });
    const d = layoutDiagram(project([map('a', [at(1, 'x'), at(2, 'x'), at(3, 'y')])]), new Set(['a']));
    expect(d.threads.map((t) => [t.target, t.count])).toEqual([
      ['service:x', 2],
      ['service:y', 1],
    ]);
    const rows = d.boxes.find((b) => b.kind === 'service')!.rows;
    expect(d.threads.map((t) => t.toY)).toEqual(rows.map((r) => r.y));
  });
  test('the sentence names map, number and folder', () => {
    const [step] = nextSteps(project([map('Moorings', [layer('Moorings', 1, adrift), layer('Moorings', 2, adrift)])]));
    expect(step).toMatchObject({
      title: '2 layers are adrift in Moorings',
      detail: 'Recorded under old; nothing is there now.',
      button: 'See the proof and mend 2',
    });
  });
  test('bytes by folder, each file once', () =>
    expect(bytesByFolder(project([], { datasets: [dataset(1), { ...dataset(2), folder: 'x/y' }, { ...dataset(3), folder: '' }] }))).toEqual(
      [
        { folder: 'at the root', bytes: 300 },
        { folder: 'x', bytes: 200 },
        { folder: 'data', bytes: 100 },
      ],
    ));
});
