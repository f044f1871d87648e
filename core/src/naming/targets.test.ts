import { execFileSync } from 'node:child_process';
import { describe, expect, test } from '@jest/globals';
import { NAME_SORTS, NAME_TARGETS, refusedBy } from './targets.js';

// Outside references: the XML parser and the SQLite of Debian's Python, which are asked for each name.
const NAMES = [
  'beds',
  'Beds_2026',
  '_beds',
  '2026_beds',
  'bed density',
  'bed-density',
  'bed.density',
  'größe',
  'a:b',
  'a/b',
  'select',
  'é_1',
];
const PYTHON = `
import sys, json, sqlite3
from xml.parsers import expat
def xml(name):
    try: expat.ParserCreate(namespace_separator=' ').Parse('<' + name + '/>', True); return True
    except expat.ExpatError: return False
def table(name, quoted=False):
    try: sqlite3.connect(':memory:').execute('CREATE TABLE ' + ('"%s"' % name if quoted else name) + ' (a)'); return True
    except sqlite3.OperationalError: return False
print(json.dumps({n: dict(xml=xml(n), sql=table(n), quoted=table(n, True)) for n in sys.argv[1:]}))
`;
const told = JSON.parse(execFileSync('python3', ['-c', PYTHON, ...NAMES, 'sqlite_x', 'gpkg_x']).toString()) as Record<
  string,
  { xml: boolean; sql: boolean; quoted: boolean }
>;
const takes = (sort: 'table' | 'field', target: string, name: string): boolean =>
  NAME_TARGETS[sort].find((t) => t.target.startsWith(target))!.refuses(name) === null;

describe.each(NAMES)('%s', (name) => {
  test('as an element of XML', () => expect(takes('table', 'GML', name)).toBe(told[name]!.xml));
  // SQLite takes a name that begins with _, which the standard does not; whoever keeps to the standard is taken by both.
  test('in SQL without quotes', () => {
    if (name === '_beds') expect([takes('table', 'SQL', name), told[name]!.sql]).toEqual([false, true]);
    else expect(takes('table', 'SQL', name)).toBe(told[name]!.sql);
  });
});

test('what SQLite keeps for itself is no table of a GeoPackage', () => {
  expect(told['sqlite_x']!.quoted).toBe(false);
  expect([takes('table', 'a GeoPackage', 'sqlite_x'), takes('table', 'a GeoPackage', 'beds')]).toEqual([false, true]);
});

test('ten characters are a field of dBASE, eleven are not (dBASE III, field descriptor); accents are none', () => {
  expect(['depth_m_10', 'depth_m_010', 'größe'].map((n) => takes('field', 'shapefiles', n))).toEqual([true, false, false]);
});

test('each sort has what takes it, with its source; a reason is a clause', () => {
  for (const sort of NAME_SORTS) {
    expect(NAME_TARGETS[sort].every((t) => t.source !== '' && t.takes !== '')).toBe(true);
    expect(refusedBy(sort, 'beds')).toEqual([]);
  }
  expect(refusedBy('file', 'con').map((r) => r.why)).toEqual(['Windows keeps that name for a device']);
  expect(refusedBy('folder', 'bed density').map((r) => r.target)).toEqual(['web addresses, as they are']);
});
