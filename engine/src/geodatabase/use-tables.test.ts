import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { undoChange } from '../changes/undo-change.js';
import { planImport } from './plan-import.js';
import { planUseTables } from './use-tables.js';
import { ImportWorld } from '../../test/import-world.js';

let w: ImportWorld;
beforeEach(async () => {
  w = await ImportWorld.open();
});
afterEach(() => w.close());

describe('maps that use the tables', () => {
  test('href, code and type are rewritten, and not a byte more; other layers stay', async () => {
    w.t.map('p/maps/a.owc.json', ['../shapes/columbus.shp', '../shapes/baltim.shp']);
    const before = readFileSync(w.t.at('p/maps/a.owc.json'), 'utf8');
    await w.bringIn('one.gpkg', ['shapes/columbus.shp']);
    const { steps, layers } = planUseTables(w.scope(), [{ from: w.t.at('p/shapes/columbus.shp'), to: `${w.t.at('p/one.gpkg')}#columbus` }]);
    expect(layers.map((l) => [l.before, l.after])).toEqual([['../shapes/columbus.shp', '../one.gpkg#columbus']]);
    const after = Buffer.from((steps[0] as { after: Uint8Array }).after).toString();
    const changed = after.split('\n').filter((line, i) => line !== before.split('\n')[i]);
    expect(after.split('\n')).toHaveLength(before.split('\n').length);
    expect(changed.map((line) => /"(\w+)":/.exec(line)![1]).sort()).toEqual(['code', 'href', 'type']);
  });
});

describe('maps that name no table', () => {
  test('say which one they mean when a second one comes, in the same change', async () => {
    await w.bringIn('one.gpkg', ['shapes/columbus.shp']);
    w.t.map('p/maps/a.owc.json', ['../one.gpkg', '../shapes/baltim.shp']);
    const before = readFileSync(w.t.at('p/maps/a.owc.json'), 'utf8');
    const { plan, done } = await w.bringIn('one.gpkg', ['shapes/baltim.shp']);
    expect(plan.named).toBe(1);
    const after = readFileSync(w.t.at('p/maps/a.owc.json'), 'utf8').split('\n');
    expect(after.filter((line, i) => line !== before.split('\n')[i])).toEqual([expect.stringContaining('"../one.gpkg#columbus"')]);
    await undoChange(done.id, 'test', { journal: w.journal(), program: 'test' });
    expect(readFileSync(w.t.at('p/maps/a.owc.json'), 'utf8')).toBe(before);
    expect(planImport(w.scope(), w.find, w.t.at('p/new.gpkg'), w.items('shapes/baltim.shp'), null, 'test').named).toBe(0);
  });
});
