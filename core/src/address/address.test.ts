import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { posix, win32 } from 'node:path';
import {
  classify,
  climb,
  locate,
  parseAddress,
  parseDriveName,
  parseReference,
  printAddress,
  relativize,
  resolveIn,
  storeReference,
  toFileUri,
  type Address,
  type Place,
} from './index.js';

const checks = (name: string) => JSON.parse(readFileSync(`testdata/checks/${name}`, 'utf8'));
const parsed = (text: string): Address => {
  const result = parseAddress(text);
  if (!result.ok) throw new Error(JSON.stringify(result.problem));
  return result.value;
};

/** Where a reference leads from a map, as a path below its place, or what else comes of it. */
function led(map: readonly string[], href: string, place: Place): string {
  const reference = parseReference(href);
  if (!reference.ok) return reference.problem.code;
  if (reference.value.kind === 'service') return 'service';
  const where = resolveIn({ place: place.name, segments: map }, reference.value, [place]);
  if (where === 'above-root') return where;
  return 'flavour' in where ? toFileUri(where) : `/${where.segments.join('/')}`;
}
const placeOn = (drive: string): Place => ({
  name: 'a',
  root: parsed('/srv/a'),
  driveNames: [parseDriveName(drive)!],
  present: true,
  ignoresCase: false,
  readOnly: false,
});

describe('RFC 3986 section 5.4, every row that has a path and neither scheme nor host', () => {
  const file = checks('rfc3986-5.4.json') as {
    rows: { base: string; ref: string; target: string }[];
    remove_dot_segments_5_2_4: [string, string][];
  };
  const rows = file.rows.filter((r) => !/^(([A-Za-z]+:)|\/\/|[?#]|$)/.test(r.ref));
  test('these are 36 of 42', () => expect([rows.length, file.rows.length]).toEqual([36, 42]));
  test.each(rows.map((r) => [r.ref, r.target]))('%s', (ref, target) => {
    const path = target.replace(/^http:\/\/a/, '').replace(/[?#].*$/, ''); // what an address of a file says behind ? is no part of its path
    const got = led(['b', 'c', 'd;p'], ref, placeOn('D:'));
    // Where the RFC cuts short what climbs above the root, nothing stands: it is told, not guessed.
    if (/^(\.\.\/){3,}g$/.test(ref)) expect([got, path]).toEqual(['above-root', '/g']);
    else if (ref === '/../g') expect([got, path]).toEqual(['bad-address', '/g']);
    else expect(got).toBe(path.replace(/(?<=.)\/$/, ''));
  });
  test.each(file.remove_dot_segments_5_2_4)('%s without dots', (from, to) =>
    expect(led(['map'], from.replace(/^\//, ''), placeOn('D:'))).toBe(to.replace(/^\/?/, '/')),
  );
});

describe('RFC 8089, every row', () => {
  interface Row {
    uri?: string;
    path?: string;
    host?: string;
    windows?: string;
    unc?: string;
    base?: string;
    ref?: string;
    target?: string;
    error?: string;
    means?: string;
  }
  const file = checks('rfc8089-file-uris.json') as { rows: Row[]; percent_encoding: Row[] };
  const sameWindows = (a: string, b: string): void => expect(a.toLowerCase()).toBe(b.toLowerCase());
  test.each(file.rows.filter((r) => r.uri && r.windows).map((r) => [r.uri!, r.windows!]))('%s is %s', (uri, windows) =>
    sameWindows(printAddress(parsed(uri)), windows.replaceAll('\\', '/')),
  );
  test.each(file.rows.filter((r) => r.uri && r.unc).map((r) => [r.uri!, r.unc!]))('%s is %s', (uri, unc) =>
    expect(printAddress(parsed(uri))).toBe(unc.replaceAll('\\', '/')),
  );
  test.each(file.rows.filter((r) => r.uri && r.path && r.host === '').map((r) => [r.uri!, r.path!]))('%s is %s', (uri, path) =>
    expect(printAddress(parsed(uri))).toBe(path),
  );
  test.each(file.rows.filter((r) => r.uri && r.host).map((r) => [r.uri!, r.host!, r.path!]))('%s is on host %s', (uri, host, path) => {
    const a = parsed(uri);
    expect(a.flavour).toBe('unc');
    expect(printAddress(a)).toBe(`//${host}${path}`);
  });
  test('backslashes in a URI are read (appendix E.4)', () =>
    expect(printAddress(parsed('file:///c:\\path\\to\\file'))).toBe('C:/path/to/file'));
  test('a POSIX reference keeps the drive of its base (appendix E.2.1)', () => {
    const row = file.rows.find((r) => r.base)!;
    const base = parsed(row.base!);
    expect(led(base.segments, row.ref!, placeOn(base.root))).toBe(`/${parsed(row.target!).segments.join('/')}`);
    // Another folder of that drive than the place's is an address on the drive, which no place claims.
    expect(led(base.segments, row.ref!, placeOn(`${base.root}/gis`)).toLowerCase()).toBe(row.target!.toLowerCase());
  });
  test.each(file.percent_encoding.filter((r) => r.uri && !r.error).map((r) => [r.windows ?? r.unc!, r.uri!]))('%s and %s', (path, uri) => {
    expect(toFileUri(parsed(path))).toBe(toFileUri(parsed(uri)));
    if (!path.startsWith('\\\\?')) expect(printAddress(parsed(uri))).toBe(path.replaceAll('\\', '/'));
  });
  test('an encoded slash is refused', () => expect(parseAddress('file:///a%2Fb').ok).toBe(false));
  test('every row was used', () => expect(file.rows).toHaveLength(16));
});

describe('what is refused, with a reason', () => {
  test.each([
    ['D:x.shp', /current folder/],
    ['\\\\.\\PhysicalDrive0', /device/],
    ['\\\\?\\GLOBALROOT\\x', /device/],
    ['/a\0b', /NUL/],
    ['file:///C:/a%00b', /NUL/],
    ['//server', /share/],
    ['../x', /not absolute/],
    ['/../x', /above its root/],
    ['file:a/b', /absolute path/],
  ])('%j', (text, why) => {
    const result = parseAddress(text);
    expect(result.ok).toBe(false);
    expect(!result.ok && result.problem.code === 'bad-address' && result.problem.why).toMatch(why);
  });
});

describe('classify and parse references', () => {
  test.each([
    ['http://x/y', 'service'],
    ['HTTPS://x', 'service'],
    ['file:///a', 'absolute'],
    ['C:\\a', 'absolute'],
    ['/a', 'absolute'],
    ['\\\\s\\h', 'absolute'],
    ['../a', 'relative'],
    ['a b/c.shp', 'relative'],
    ['./a:b.shp', 'relative'],
  ])('%s is %s', (href, kind) => expect(classify(href)).toBe(kind));

  test.each([
    ['../a%20b/c%23d.shp', ['..', 'a b', 'c#d.shp'], null, true],
    ['..\\a b\\c.shp', ['..', 'a b', 'c.shp'], null, false],
    ['../x.gpkg#sea%20grass', ['..', 'x.gpkg'], 'sea grass', true],
    ['..\\x.gpkg#beds', ['..', 'x.gpkg'], 'beds', false],
    ['a/../../b.shp', ['..', 'b.shp'], null, true],
    ['100%.shp', ['100%.shp'], null, false],
    ['ä.shp', ['ä.shp'], null, false],
  ] as const)('%s', (href, segments, fragment, isUri) => {
    const r = parseReference(href);
    expect(r).toEqual({ ok: true, value: { kind: 'relative', segments, fragment, isUri } });
  });
  test('a raw Windows path keeps # and % as letters', () => {
    const r = parseReference('D:\\a#b\\100%25.shp');
    expect(r.ok && r.value.kind === 'absolute' && printAddress(r.value.address)).toBe('D:/a#b/100%25.shp');
  });
});

const name = fc
  .string({ minLength: 1, maxLength: 12, unit: 'grapheme' })
  .filter((s) => !/[/\\\0]/.test(s) && s !== '.' && s !== '..' && s.isWellFormed());
const folder = fc.array(name, { maxLength: 6 });
const file = fc.array(name, { minLength: 1, maxLength: 6 });

describe('laws', () => {
  test('resolve(from, relativize(from, to)) is to', () => {
    fc.assert(
      fc.property(
        folder,
        file,
        fc.option(fc.string({ minLength: 1, unit: 'grapheme' }).filter((s) => s.isWellFormed() && !s.includes('\0'))),
        (from, to, fragment) => {
          const href = relativize(from, to, fragment);
          const r = parseReference(href);
          if (!r.ok || r.value.kind !== 'relative') throw new Error(`${href} is not relative`);
          expect(climb(from, r.value.segments)).toEqual(to);
          expect(r.value.fragment).toBe(fragment);
          expect(r.value.isUri).toBe(true);
        },
      ),
      { seed: 7, numRuns: 3000 },
    );
  });

  test('agrees with path.posix.relative on plain names', () => {
    const plain = fc.array(fc.stringMatching(/^[a-z]{1,6}$/), { minLength: 1, maxLength: 6 });
    fc.assert(
      fc.property(plain, plain, (from, to) => {
        fc.pre(from.join('/') !== to.join('/') && !from.join('/').startsWith(`${to.join('/')}/`));
        expect(relativize(from, to, null)).toBe(posix.relative(`/${from.join('/')}`, `/${to.join('/')}`));
      }),
      { seed: 8, numRuns: 2000 },
    );
  });

  test('printed and parsed again, an address is the same', () => {
    const root = fc.constantFrom(
      { flavour: 'posix', root: '/' } as const,
      { flavour: 'drive', root: 'D:' } as const,
      { flavour: 'unc', root: '//server/share' } as const,
    );
    fc.assert(
      fc.property(root, file, (r, segments) => {
        const a: Address = { ...r, segments, isFolder: false };
        expect(parsed(printAddress(a))).toEqual(a);
        expect(parsed(toFileUri(a))).toEqual(a);
      }),
      { seed: 9, numRuns: 3000 },
    );
  });

  test('drive paths are normalised as path.win32 does', () => {
    const messy = fc.array(fc.constantFrom('a', 'b', 'c d', '.', '..', ''), { maxLength: 8 }).map((p) => `C:\\x\\y\\z\\${p.join('\\')}`);
    fc.assert(
      fc.property(messy, (text) => {
        const r = parseAddress(text);
        if (!r.ok) return void expect(text).toContain('..');
        expect(printAddress({ ...r.value, isFolder: false })).toBe(
          win32
            .normalize(text)
            .replace(/(?<=.{3})\\$/, '')
            .replaceAll('\\', '/'),
        );
      }),
      { seed: 10, numRuns: 1000 },
    );
  });

  test('no text makes parsing throw', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 40 }), (text) => {
        for (const t of [text, `file:${text}`, `C:${text}`, `\\\\${text}`]) {
          parseAddress(t);
          parseReference(t);
        }
      }),
      { seed: 11, numRuns: 5000 },
    );
  });
});

describe('places', () => {
  const place = (over: Partial<Place> & { name: string; root: Address }): Place => ({
    driveNames: [],
    present: true,
    ignoresCase: false,
    readOnly: false,
    ...over,
  });
  const places = [
    place({ name: 'local', root: parsed('/') }),
    place({ name: 'desk', root: parsed('/srv/gis'), driveNames: [parseDriveName('D:')!] }),
    place({ name: 'share', root: parsed('/mnt/share'), driveNames: [parseDriveName('\\\\harbour\\gis')!] }),
    place({ name: 'deep', root: parsed('/mnt/deep'), driveNames: [parseDriveName('D:/deep')!] }),
  ];
  test.each([
    ['file:///D:/a/b.shp', 'desk', ['a', 'b.shp']],
    ['d:\\A\\b.shp', 'desk', ['A', 'b.shp']],
    ['file://HARBOUR/gis/base/x.gpkg', 'share', ['base', 'x.gpkg']],
    ['/srv/gis/a.shp', 'desk', ['a.shp']],
    ['/srv/gisx/a.shp', 'local', ['srv', 'gisx', 'a.shp']],
    ['D:/deep/a.shp', 'deep', ['a.shp']],
    ['D:/Deeper/a.shp', 'desk', ['Deeper', 'a.shp']],
  ])('%s belongs to %s', (text, placeName, segments) => expect(locate(parsed(text), places)).toEqual({ place: placeName, segments }));
  test('a drive that no place claims belongs to none', () => expect(locate(parsed('C:/a'), places)).toBeNull());

  const map = { place: 'desk', segments: ['p', 'maps', 'm.owc.json'] };
  test('relative within a place', () =>
    expect(storeReference(map, { place: 'desk', segments: ['p', 'data', 'a b.gpkg'] }, 't#1', 'relative', places)).toEqual({
      href: '../data/a%20b.gpkg#t%231',
      form: 'relative',
    }));
  test('absolute across places, by the drive name', () =>
    expect(storeReference(map, { place: 'share', segments: ['x.shp'] }, null, 'relative', places)).toEqual({
      href: 'file://harbour/gis/x.shp',
      form: 'absolute',
    }));
  test('absolute by the POSIX path where a place has no drive name', () =>
    expect(storeReference(map, { place: 'local', segments: ['home', 'x.shp'] }, null, 'absolute', places).href).toBe('file:///home/x.shp'));
});
