import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { pathToFileURL } from 'node:url';
import { planPack } from '../bundle/plan-pack.js';
import { readMaps } from '../project/read-maps.js';
import { planRemember } from '../project/remember.js';
import { TestFolder } from '../../test/test-project.js';
import { choicesOf } from './choose.js';
import { stylesOf } from './choose.js';
import { explainBroken, planMend } from './plan-mend.js';

/** Styles in files of their own go where people move them: common practice, no source. Files are really moved. */
let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
});
afterEach(() => t.remove());

const PICTURE = '<ExternalGraphic><OnlineResource xlink:href="../marks/buoy.svg"/></ExternalGraphic>';
const SLD = `<StyledLayerDescriptor xmlns:xlink="http://www.w3.org/1999/xlink">${PICTURE}</StyledLayerDescriptor>`;

/** One layer in `p/old` with a style file; its data remembered. */
function project(style: string, data = 'old/point.shp'): string {
  t.shapefile('point', `p/${data.replace(/\.shp$/, '')}`);
  const map = t.map('p/m.owc.json', [data]);
  const json = JSON.parse(readFileSync(map, 'utf8'));
  json.features[0].properties.offerings[0].styles = [{ name: 's', content: { type: 'application/vnd.ogc.sld+xml', href: style } }];
  writeFileSync(map, JSON.stringify(json));
  const plan = planRemember(t.scope('p'), 'test');
  for (const step of plan.change?.steps ?? []) if (step.kind === 'write') writeFileSync(step.path, step.after);
  return map;
}
function put(path: string, text = SLD): void {
  mkdirSync(t.at(path, '..'), { recursive: true });
  writeFileSync(t.at(path), text);
}
const written = (map: string): string => JSON.parse(readFileSync(map, 'utf8')).features[0].properties.offerings[0].styles[0].content.href;

test('a style that went with the data is certain, and mended with it in one change', () => {
  const map = project('old/point.sld');
  put('p/old/point.sld');
  expect(explainBroken(t.scope('p')).view.styles).toEqual([]);
  renameSync(t.at('p/old'), t.at('p/new'));
  const work = explainBroken(t.scope('p'));
  expect(work.view.styles).toMatchObject([{ before: 'old/point.sld', after: 'new/point.sld', verdict: 'certain' }]);
  const change = planMend(work, choicesOf(work, 'certain'), 'test', stylesOf(work, 'certain'))!;
  expect(change).toMatchObject({ title: 'Mend 1 layer and 1 style in 1 map', steps: [{ kind: 'write', path: map }] });
  const [step] = change.steps;
  if (step?.kind === 'write') writeFileSync(step.path, step.after);
  expect(written(map)).toBe('new/point.sld');
  expect(explainBroken(t.scope('p')).view).toMatchObject({ layers: [], styles: [] });
});

test('one file of its name in reach is likely, never certain; two are not chosen between; none is told', () => {
  project('styles/point.sld');
  const styles = () => explainBroken(t.scope('p')).view.styles;
  expect(styles()).toMatchObject([{ after: null, verdict: 'none' }]);
  put('p/looks/Point.sld');
  expect(styles()).toMatchObject([{ after: 'looks/Point.sld', verdict: 'likely' }]);
  const work = explainBroken(t.scope('p'));
  expect(stylesOf(work, 'certain').size).toBe(0);
  expect(stylesOf(work, 'likely').size).toBe(1);
  put('p/spare/point.sld');
  expect(styles()).toMatchObject([{ after: null, verdict: 'possible' }]);
});

test('a bundle says which styles and pictures do not travel, and makes absolute ones relative', () => {
  put('library/point.sld');
  project('../library/point.sld');
  put('marks/buoy.svg', '<svg/>');
  const why = () => planPack(t.scope('p')).leftOut.map((l) => l.why);
  expect(why()).toEqual(['the style of "point.shp" is outside the root', 'the picture of "point.shp" is outside the root']);
  project('styles/none.sld');
  expect(why()).toEqual(['the style of "point.shp" in p/m.owc.json was not found']);
  const map = project(pathToFileURL(t.at('p/styles/point.sld')).href);
  put('p/styles/point.sld');
  put('p/marks/buoy.svg', '<svg/>');
  const plan = planPack(t.scope('p'));
  expect(plan.leftOut).toEqual([]);
  expect(plan.payload.find((f) => f.source === map)!.content!.toString()).toContain('"href":"styles/point.sld"');
});

test('data that lacks a field which its style file needs is not the same data', () => {
  project('old/point.sld');
  put('p/old/point.sld', '<Rule><ogc:PropertyName>point_ID</ogc:PropertyName></Rule>');
  const state = () => readMaps(t.scope('p')).maps[0]!.layers.map((l) => [l.layer.needs, l.judgement.state]);
  expect(state()).toEqual([[['point_ID'], 'sound']]);
  put('p/old/point.sld', '<Rule><se:ValueReference>depth_m</se:ValueReference></Rule>');
  expect(state()).toEqual([[['depth_m'], 'different']]);
});
