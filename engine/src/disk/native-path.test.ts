import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import nodePath from 'node:path';
import { parseAddress, printAddress, relativize, resolveIn, type Place } from '@rootmap/core';
import { pathsOf } from './native-path.js';

/*
 * Both kinds of system, on every system. The judges: `path.win32` and `path.posix` of Node, and what Microsoft documents of names
 * and namespaces ("Naming Files, Paths, and Namespaces", "Maximum Path Length Limitation").
 */

const win = pathsOf('win32');
const posix = pathsOf('posix');
const RUNS = { seed: 20, numRuns: 10_000 };

/** As `expect`, which takes as long as all the rest where it is asked a hundred thousand times. */
const same = (got: unknown, want: unknown): void => {
  if (got !== want) expect(got).toBe(want);
};

const DEVICES = ['con', 'NUL', 'aux.txt', 'COM1', 'lpt9.tif', 'CONIN$'];
const LONE = ['\ud800', 'a\udc00b', '\udfff.shp'];
const isDots = (name: string): boolean => /^\.{1,2}$/.test(name);
/** Names as NTFS can hold them: all but separators, NUL and the two that mean folders. */
const windowsName = fc.oneof(
  fc.string({ minLength: 1, maxLength: 12, unit: 'binary' }).filter((s) => !/[\\/\0]/.test(s) && !isDots(s)),
  fc.constantFrom(...DEVICES, ...LONE, 'ends.', 'ends ', 'Straße', 'gröna', 'a%20b', 'x#y?z', '...'),
);
const posixName = fc.oneof(
  fc.string({ minLength: 1, maxLength: 12, unit: 'binary' }).filter((s) => !/[/\0]/.test(s) && !isDots(s)),
  fc.constantFrom(...LONE, 'back\\slash', 'D:', 'file:', '\\\\server', 'ends.', ' ', '~'),
);
const host = fc.constantFrom('server', 'FILES', 'nas.example', '10.0.0.7');
const share = fc.constantFrom('gis', 'Data$', 'my share');
const root = fc.oneof(
  fc.constantFrom('C', 'D', 'Z').map((letter) => `${letter}:\\`),
  fc.tuple(host, share).map(([h, s]) => `\\\\${h}\\${s}\\`),
);
const long = fc.nat({ max: 32_000 }).map((units) => Array.from({ length: Math.ceil(units / 200) }, () => 'n'.repeat(199)));
const names = fc.oneof({ weight: 30, arbitrary: fc.array(windowsName, { maxLength: 6 }) }, { weight: 1, arbitrary: long });

const native = fc.tuple(root, names).map(([start, parts]) => start + parts.join('\\'));
const verbatim = (path: string): string => (path.startsWith('\\\\') ? `\\\\?\\UNC${path.slice(1)}` : `\\\\?\\${path}`);
const again = (path: string): string => win.toNative(win.pathOfAddress(win.toAddress(win.fromNative(path))));
const plainly = (path: string): string => path.replace(/^\\\\\?\\UNC/, '\\').replace(/^\\\\\?\\/, '');

describe('native → address → native', () => {
  test('Windows: the same path; verbatim just where the plain form would be another file or is too long', () => {
    fc.assert(
      fc.property(native, (path) => {
        const back = again(path);
        const needsIt =
          path.length > 259 ||
          path
            .split('\\')
            .slice(1)
            .some((n) => /[. ]$/.test(n) || /^(con|nul|aux|prn|(com|lpt)[0-9¹²³]|con(in|out)\$)\s*(\.|$)/i.test(n));
        same(plainly(back), path);
        same(back.startsWith('\\\\?\\'), needsIt);
      }),
      RUNS,
    );
  });
  test('Windows: every other spelling of a path leads to the same', () => {
    fc.assert(
      fc.property(native, fc.infiniteStream(fc.boolean()), (path, turns) => {
        const want = win.fromNative(path);
        let mixed = '';
        for (const ch of path) mixed += ch === '\\' && turns.next().value ? '/' : ch;
        same(win.fromNative(mixed), want);
        same(win.fromNative(verbatim(path)), want);
        same(win.fromNative(path.replace(/^[A-Z]:/, (drive) => drive.toLowerCase())), want);
        same(win.fromNative(win.fromNative(path)), want); // what is within already
      }),
      RUNS,
    );
  });
  test('POSIX: the same path', () => {
    fc.assert(
      fc.property(fc.array(posixName, { maxLength: 8 }), (parts) => {
        const path = `/${parts.join('/')}`;
        same(posix.toNative(posix.pathOfAddress(posix.toAddress(posix.fromNative(path)))), path);
      }),
      RUNS,
    );
  });
  test.each([
    ['D:maps\\a.shp', 'depends on the current folder'],
    ['D:', null],
    ['\\maps\\a.shp', 'depends on the current drive'],
    ['/maps/a.shp', 'depends on the current drive'],
    ['maps\\a.shp', 'is not absolute'],
    ['\\\\.\\PhysicalDrive0', 'names a device'],
    ['\\\\.\\C:\\gis', 'names a device'],
    ['\\\\?\\Volume{b75e2c83-0000-0000-0000-602f00000000}\\gis', 'names a device'],
    ['\\\\?\\GLOBALROOT\\Device\\x', 'names a device'],
    ['\\\\server', 'needs a server and a share'],
    ['C:\\a\0b', 'NUL'],
    ['C:\\..\\x', 'leads above its root'],
  ])('what is no place of a file is refused, or is the root: %j', (text, why) => {
    if (why === null) expect(win.fromNative(text)).toBe('D:/');
    else expect(() => win.fromNative(text)).toThrow(new RegExp(why));
  });
});

describe('what leads from one to another agrees with path.win32 and path.posix', () => {
  test.each(['win32', 'posix'] as const)('%s: join, dirname, basename, extname, relative', (flavour) => {
    const [ours, judge] = [pathsOf(flavour), nodePath[flavour]];
    const asOurs = (path: string): string => (flavour === 'win32' ? path.replaceAll('\\', '/') : path);
    const name = flavour === 'win32' ? windowsName : posixName;
    const start = flavour === 'win32' ? root.map((r) => win.fromNative(r)) : fc.constant('/');
    fc.assert(
      fc.property(start, fc.array(name, { minLength: 1, maxLength: 5 }), fc.array(name, { minLength: 1, maxLength: 5 }), (at, a, b) => {
        const [from, to] = [ours.join(at, ...a), ours.join(at, ...b)];
        same(from, asOurs(judge.join(at, ...a)));
        same(ours.dirname(from), asOurs(judge.dirname(from)));
        same(ours.basename(from), judge.basename(from));
        same(ours.extname(from), judge.extname(from));
        same(ours.relative(from, to), asOurs(judge.relative(from, to)));
        same(ours.resolve(from, ours.relative(from, to)), to);
        same(ours.isBelow(at, from), true);
        same(ours.join(at, ours.pathFrom(at, from)), from);
      }),
      RUNS,
    );
  });

  const place = (text: string): Place => {
    const parsed = parseAddress(text);
    if (!parsed.ok) throw new Error(text);
    return { name: 'p', root: parsed.value, driveNames: [], present: true, ignoresCase: true, readOnly: false };
  };
  const plain = fc.string({ minLength: 1, maxLength: 8, unit: 'grapheme-ascii' }).filter((s) => !/[\\/:]/.test(s) && !isDots(s));
  test('a reference from a map leads where path.win32 leads, once its percents are read', () => {
    fc.assert(
      fc.property(fc.array(plain, { minLength: 1, maxLength: 4 }), fc.array(plain, { minLength: 1, maxLength: 5 }), (map, data) => {
        const href = relativize(map.slice(0, -1), data, null, (a, b) => a === b);
        const segments = href.split('/').map((s) => decodeURIComponent(s));
        const where = resolveIn({ place: 'p', segments: map }, { kind: 'relative', segments, fragment: null, isUri: true }, [place('C:/')]);
        if (where === 'above-root' || 'flavour' in where) throw new Error(href);
        const judged = nodePath.win32.resolve('C:\\', ...map.slice(0, -1), segments.join('\\'));
        same(`C:\\${where.segments.join('\\')}`, judged);
      }),
      RUNS,
    );
  });

  describe('and differs where that would be wrong', () => {
    test('what climbs above a drive: path.win32 stays at the root, here it leads nowhere', () => {
      expect(nodePath.win32.resolve('C:\\maps', '..\\..\\x')).toBe('C:\\x');
      const up = resolveIn(
        { place: 'p', segments: ['maps', 'a'] },
        { kind: 'relative', segments: ['..', '..', 'x'], fragment: null, isUri: true },
        [place('C:/')],
      );
      expect(up).toBe('above-root');
    });
    test('a verbatim path: path.win32 takes \\\\?\\C: for a server with a share, here it is the drive', () => {
      expect(nodePath.win32.parse('\\\\?\\C:\\gis\\a').root).toBe('\\\\?\\C:\\');
      expect(win.fromNative('\\\\?\\C:\\gis\\a')).toBe('C:/gis/a');
      expect(win.resolve('D:/x', '\\\\?\\UNC\\server\\gis\\a')).toBe('//server/gis/a');
    });
    test('letters of a drive: path.win32 keeps them, here two spellings are one', () => {
      expect(nodePath.win32.resolve('c:\\gis')).not.toBe(nodePath.win32.resolve('C:\\gis'));
      expect(win.resolve('c:\\gis')).toBe(win.resolve('C:/gis/'));
    });
    test('case: path.win32 compares text, here a folder is one whatever its letters', () => {
      expect('c:\\GIS\\a'.startsWith('C:\\gis\\')).toBe(false);
      expect(win.below('C:/gis', 'C:/GIS/Roads.shp')).toBe('Roads.shp');
      expect(win.below('C:/gis', 'C:/gis_old/a.shp')).toBeNull();
      expect(posix.below('/gis', '/GIS/Roads.shp')).toBeNull();
    });
    test('between drives there is no relative path: the whole one stands', () => {
      expect(win.relative('C:/gis', 'D:/data/a')).toBe('D:/data/a');
    });
    test('a drive itself is a folder like any other', () => {
      expect(win.below('E:/', 'E:/gis/a')).toBe('gis/a');
      expect(win.rebase('E:/gis/a', 'E:/', 'F:/stick')).toBe('F:/stick/gis/a');
      expect([win.pathFrom('E:/gis', 'E:/gis/a'), win.pathFrom('E:/gis', 'E:/other/a')]).toEqual(['a', 'E:/other/a']);
      expect(win.dirname('E:/gis')).toBe('E:/');
      expect(win.dirname('E:/')).toBe('E:/');
      expect(win.isInside('//server/gis/', '//SERVER/gis/a')).toBe(true);
    });
  });
});

test('32,000 units survive both ways', () => {
  const path = `C:\\${'n'.repeat(199).concat('\\').repeat(160).slice(0, -1)}`;
  expect(path.length).toBeGreaterThan(31_900);
  expect(again(path)).toBe(`\\\\?\\${path}`);
  const parsed = parseAddress(path);
  expect(parsed.ok && printAddress(parsed.value)).toBe(path.replaceAll('\\', '/'));
});
