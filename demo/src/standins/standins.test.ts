import { execFileSync } from 'node:child_process';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { StandIns } from '../../../engine/test/stand-ins.js';

/*
 * The stand-ins are what the product is tried against, so they are held against readers of others: GDAL's drivers for OGC API
 * Features and WMS, OWSLib, and the members that the standards ask for.
 */
const servers = new StandIns();
beforeAll(() => servers.start());
afterAll(() => servers.stop());
beforeEach(() => servers.switch({ slow: false, failing: false, moved: false, newEdition: false }));
const at = (path: string): string => `${servers.address}${path}`;
const run = (command: string, ...args: string[]): string =>
  execFileSync(command, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] });
const json = async (path: string, headers: Record<string, string> = {}) =>
  (await fetch(at(path), { headers })).json() as Promise<Record<string, unknown>>;

describe('records, as GDAL reads them (driver OAPIF)', () => {
  test('collections with their kinds and counts', () => {
    const told = run('ogrinfo', '-ro', '-so', '-al', `OAPIF:${at('/library')}`);
    const layers = Object.fromEntries(
      [...told.matchAll(/Layer name: (\w+)[\s\S]*?Geometry: ([\w ]+)\nFeature Count: (\d+)/g)].map((m) => [m[1], [m[2], Number(m[3])]]),
    );
    expect(layers).toMatchObject({ harbour_lights: ['Point', 36], protected_beds: ['Polygon', 28], ferry_tracks: ['Line String', 18] });
  });
  test('pages join to the whole, and boxes to a part', () => {
    const ids = (...more: string[]): string[] =>
      [
        ...run(
          'ogrinfo',
          '-ro',
          '-al',
          '-geom=NO',
          '--config',
          'OAPIF_PAGE_SIZE',
          '7',
          `OAPIF:${at('/library')}`,
          'harbour_lights',
          ...more,
        ).matchAll(/light_no \(String\) = (\S+)/g),
      ].map((m) => m[1]!);
    expect(new Set(ids()).size).toBe(36);
    const part = ids('-spat', '-39.2', '43.98', '-39.18', '44.01').length;
    expect(part).toBeGreaterThan(0);
    expect(part).toBeLessThan(36);
  });
  test('members of a landing page, conformance and pages (OGC 17-069r4, 7.2, 7.4, 7.15)', async () => {
    const landing = (await json('/library')) as { links: { rel: string }[] };
    expect(landing.links.map((l) => l.rel)).toEqual(expect.arrayContaining(['self', 'conformance', 'data']));
    expect(await json('/library/conformance')).toMatchObject({
      conformsTo: expect.arrayContaining([expect.stringMatching(/ogcapi-features-1\/1.0\/conf\/core$/)]),
    });
    const page = await json('/library/collections/harbour_lights/items?limit=10');
    expect(page).toMatchObject({
      type: 'FeatureCollection',
      numberMatched: 36,
      numberReturned: 10,
      timeStamp: expect.stringMatching(/Z$/),
    });
    expect((page['links'] as { rel: string }[]).map((l) => l.rel)).toEqual(['self', 'next']);
    expect((await fetch(at('/library/collections/harbour_lights/items?limit=no'))).status).toBe(400);
    expect((await fetch(at('/library/collections/none'))).status).toBe(404);
  });
  test('a catalogue is searched by q: terms with commas between, any of which is found (OGC 20-004r1)', async () => {
    const titles = async (q: string): Promise<string[]> => {
      const page = (await json(`/library/collections/catalogue/items?q=${encodeURIComponent(q)}`)) as {
        features: { properties: { title: string } }[];
      };
      return page.features.map((f) => f.properties.title);
    };
    expect(await titles('islet beacons')).toEqual(['Islet beacons (file)']);
    expect((await titles('islet beacons, lights')).length).toBeGreaterThan(1);
    expect(await titles('no such thing')).toEqual([]);
  });
  test('records of a catalogue (OGC 20-004r1, 7.1: id, type, properties.type and title, links)', async () => {
    const { features } = (await json('/library/collections/catalogue/items?limit=100')) as { features: Record<string, unknown>[] };
    for (const f of features)
      expect(f).toMatchObject({
        id: expect.any(String),
        type: 'Feature',
        properties: { type: 'dataset', title: expect.any(String) },
        links: expect.any(Array),
      });
    expect(features).toHaveLength(4);
  });
  test('members only by name and password (RFC 7617)', async () => {
    const refused = await fetch(at('/members'));
    expect([refused.status, refused.headers.get('www-authenticate')]).toEqual([401, expect.stringMatching(/^Basic realm=/)]);
    expect(
      (await fetch(at('/members'), { headers: { authorization: `Basic ${Buffer.from('guest:wrong').toString('base64')}` } })).status,
    ).toBe(401);
    const told = run('ogrinfo', '-ro', '-so', '-al', '--config', 'GDAL_HTTP_USERPWD', 'guest:tide table', `OAPIF:${at('/members')}`);
    expect(told).toContain('Feature Count: 22');
  });
});

describe('pictures, as others read them', () => {
  test('GDAL (driver WMS) opens the layers and finds something drawn where it is', () => {
    for (const version of ['1.1.1', '1.3.0']) {
      const told = run('gdalinfo', `WMS:${at('/charts/wms')}?SERVICE=WMS&VERSION=${version}&REQUEST=GetCapabilities`);
      expect(told).toContain('protected_beds');
    }
    const layer = `WMS:${at('/charts/wms')}?SERVICE=WMS&VERSION=1.1.1&REQUEST=GetMap&LAYERS=protected_beds&SRS=EPSG:4326&BBOX=-39.26,43.97,-39.14,44.03&FORMAT=image/png&TRANSPARENT=TRUE`;
    const info = run('gdalinfo', '-json', layer);
    expect(JSON.parse(info)).toMatchObject({ bands: expect.arrayContaining([expect.objectContaining({ type: 'Byte' })]) });
    // Read through 1.3.0 in a CRS in metres: some of it is drawn, most of it is not.
    const service = `<GDAL_WMS><Service name="WMS"><Version>1.3.0</Version><ServerUrl>${at('/charts/wms')}?</ServerUrl><CRS>EPSG:3857</CRS><Layers>bay</Layers><ImageFormat>image/png</ImageFormat><Transparent>TRUE</Transparent></Service><DataWindow><UpperLeftX>-4371000</UpperLeftX><UpperLeftY>5470000</UpperLeftY><LowerRightX>-4357000</LowerRightX><LowerRightY>5460000</LowerRightY><SizeX>700</SizeX><SizeY>500</SizeY></DataWindow><BandsCount>4</BandsCount></GDAL_WMS>`;
    const { bands } = JSON.parse(run('gdalinfo', '-json', '-stats', service)) as { bands: { mean: number }[] };
    expect(bands[3]!.mean).toBeGreaterThan(2);
    expect(bands[3]!.mean).toBeLessThan(60);
  });
  test('OWSLib reads the capabilities of both versions alike', () => {
    const script = `
import json, sys
from owslib.wms import WebMapService
out = []
for v in ('1.1.1', '1.3.0'):
    w = WebMapService(sys.argv[1], version=v)
    l = w['protected_beds']
    out.append([w.identification.title, sorted(w.contents), [round(x, 6) for x in l.boundingBoxWGS84], l.title])
print(json.dumps(out))`;
    const [old, now] = JSON.parse(run('/usr/bin/python3', '-c', script, at('/charts/wms'))) as unknown[];
    expect(old).toEqual(now);
  });
  // OGC 06-042, 6.7.2: EPSG:4326 in 1.3.0 has latitude first. The same piece asked for in three ways is the same picture.
  test('the same piece in each order of axes is the same picture', async () => {
    const picture = async (query: string): Promise<string> => {
      const answer = await fetch(
        at(`/charts/wms?SERVICE=WMS&REQUEST=GetMap&LAYERS=bay&STYLES=&WIDTH=300&HEIGHT=200&FORMAT=image/png&${query}`),
      );
      expect(answer.headers.get('content-type')).toBe('image/png');
      return Buffer.from(await answer.arrayBuffer()).toString('base64');
    };
    const old = await picture('VERSION=1.1.1&SRS=EPSG:4326&BBOX=-39.26,43.97,-39.14,44.03');
    expect(await picture('VERSION=1.3.0&CRS=EPSG:4326&BBOX=43.97,-39.26,44.03,-39.14')).toBe(old);
    expect(await picture('VERSION=1.3.0&CRS=CRS:84&BBOX=-39.26,43.97,-39.14,44.03')).toBe(old);
    expect(await picture('VERSION=1.3.0&CRS=EPSG:4326&BBOX=-39.26,43.97,-39.14,44.03')).not.toBe(old);
  });
  test('faults are told as the standard asks', async () => {
    const fault = async (query: string): Promise<string> => (await fetch(at(`/charts/wms?SERVICE=WMS&REQUEST=GetMap&${query}`))).text();
    expect(await fault('VERSION=1.3.0&LAYERS=none&CRS=EPSG:3857&BBOX=0,0,1,1&WIDTH=1&HEIGHT=1')).toContain('code="LayerNotDefined"');
    expect(await fault('VERSION=1.3.0&LAYERS=bay&CRS=EPSG:1&BBOX=0,0,1,1&WIDTH=1&HEIGHT=1')).toContain('code="InvalidCRS"');
  });
  test('tiles, and those for which a key is needed', async () => {
    expect((await fetch(at('/tiles/0/0/0.png'))).status).toBe(200);
    expect((await fetch(at('/tiles/1/2/0.png'))).status).toBe(404);
    expect((await fetch(at('/keyed/0/0/0.png'))).status).toBe(401);
    expect((await fetch(at('/keyed/0/0/0.png?api_key=kelp-42'))).status).toBe(200);
    expect((await fetch(at('/keyed/0/0/0.png'), { headers: { 'x-api-key': 'kelp-42' } })).status).toBe(200);
  });
});

describe('files', () => {
  test('parts, as Python asks for them, join to the whole; a second edition has another mark', async () => {
    const whole = Buffer.from(await (await fetch(at('/downloads/islet_beacons.zip'))).arrayBuffer());
    const script =
      'import sys, urllib.request as u; sys.stdout.buffer.write(u.urlopen(u.Request(sys.argv[1], headers={"Range": "bytes=1000-"})).read())';
    const rest = execFileSync('/usr/bin/python3', ['-c', script, at('/downloads/islet_beacons.zip')]);
    expect(rest.equals(whole.subarray(1000))).toBe(true);
    const head = await fetch(at('/downloads/islet_beacons.zip'), { method: 'HEAD' });
    const mark = head.headers.get('etag')!;
    expect(head.headers.get('content-length')).toBe(String(whole.length));
    expect((await fetch(at('/downloads/islet_beacons.zip'), { headers: { 'if-none-match': mark } })).status).toBe(304);
    await servers.switch({ newEdition: true });
    expect((await fetch(at('/downloads/islet_beacons.zip'), { headers: { 'if-none-match': mark } })).status).toBe(200);
    expect((await fetch(at('/downloads/none.zip'))).status).toBe(404);
  });
});

test('switches: out of order with a time to come back, moved, and none that is not there', async () => {
  await servers.switch({ failing: true });
  const failed = await fetch(at('/library'));
  expect([failed.status, failed.headers.get('retry-after')]).toEqual([503, '2']);
  await servers.switch({ failing: false, moved: true });
  const moved = await fetch(at('/charts/wms?SERVICE=WMS&REQUEST=GetCapabilities'), { redirect: 'manual' });
  expect([moved.status, moved.headers.get('location')]).toEqual([
    301,
    expect.stringMatching(/^http:\/\/localhost:\d+\/charts2\/wms\?SERVICE=WMS/),
  ]);
  await expect(servers.switch({ nothing: true })).rejects.toThrow('no switch');
  await expect(fetch(`${servers.secure}/library`)).rejects.toThrow();
});
