import { describe, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import fc from 'fast-check';
import type { Condition, Operand } from './expression.js';
import { Lexer } from 'chevrotain';
import { FilterParser, TOKENS } from './parse-filter.js';
import { checkFilter, fieldsOf, parseFilter, printFilter, testRecord } from './index.js';

const parse = (text: string): Condition => {
  const parsed = parseFilter(text);
  if (!parsed.ok) throw new Error(`${parsed.at}: ${parsed.why}`);
  return parsed.condition;
};

test('nothing is wrong with tokens and rules themselves, as the library checks them', () => {
  expect(new Lexer(TOKENS, { positionTracking: 'onlyOffset' }).lexerDefinitionErrors).toEqual([]);
  expect(() => new FilterParser()).not.toThrow(); // its analysis throws what it finds
});

describe('the grammar', () => {
  // Source: OGC 21-065r2 (CQL2), examples of clause 7 and annex B, as far as they are basic comparisons; from memory.
  test.each([
    ["city='Toronto'", ['city']],
    ['avg(windSpeed) < 4', null],
    ['floors>5 AND swimming_pool = true', ['floors', 'swimming_pool']],
    ["name LIKE 'Smith%'", ['name']],
    ['depth BETWEEN 100.0 and 150.0', ['depth']],
    ["cityName IN ('Toronto', 'Frankfurt', 'Tokyo', 'New York')", ['cityName']],
    ['geophys:SURVEY_NAME IS NULL', null],
    ['"geophys:SURVEY_NAME" IS NOT NULL', ['geophys:SURVEY_NAME']],
    ["owner NOT LIKE '%Mike%'", ['owner']],
    ['value=field', ['value', 'field']],
    ['vehicle_height > (bridge_clearance-1)', ['vehicle_height', 'bridge_clearance']],
    ['(a = 1 OR b = 2) AND NOT (c IN (1, 2))', ['a', 'b', 'c']],
    ["updated >= DATE('2021-04-08') AND date < TIMESTAMP('2021-04-08T04:16:23Z')", ['updated', 'date']],
    ['notes = 1 AND innings > 2', ['notes', 'innings']], // words that begin like keywords are names
    ['tiefe > -2.5e-1 AND größe <> 3', ['tiefe', 'größe']],
  ])('%s', (text, fields) => {
    const parsed = parseFilter(text);
    expect(parsed.ok ? fieldsOf(parsed.condition) : null).toEqual(fields);
  });

  test('dates and instants are compared as they stand in the data', () => {
    const fields = [
      { name: 'day', type: 'date' as const },
      { name: 'at', type: 'datetime' as const },
    ];
    const text = "day >= DATE('2025-12-31') AND at < TIMESTAMP('2026-01-01T00:00:00Z')";
    expect(checkFilter(text, fields)).toEqual([]);
    const condition = parse(text);
    const meets = (day: string, at: string): boolean | null => testRecord(condition, (name) => (name === 'day' ? day : at));
    expect([
      meets('2025-12-31', '2025-12-31T23:59:59Z'),
      meets('2025-12-30', '2025-12-31T23:59:59Z'),
      meets('2025-12-31', '2026-01-01T00:00:00Z'),
    ]).toEqual([true, false, false]);
    expect(parse(printFilter(condition))).toEqual(condition);
    for (const odd of ["day = DATE('31.12.2025')", "day = TIMESTAMP('2025-12-31')x"]) expect(parseFilter(odd).ok).toBe(false);
  });
  test('AND binds closer than OR', () => {
    expect(parse('a = 1 OR b = 2 AND c = 3')).toMatchObject({ op: 'or', parts: [{ op: '=' }, { op: 'and' }] });
  });

  test.each([
    ['', 0, 'there is no condition'],
    ['a =', 3, 'something is missing after "="'],
    ['a = 1 b', 6, '"b" cannot stand here'],
    ['a § 1', 2, '"§ 1" has no meaning here'],
    ["a = 'x", 4, `"'x" has no meaning here`],
  ])('%s tells where it ends', (text, at, why) => expect(parseFilter(text)).toEqual({ ok: false, at, why }));
});

const operand: fc.Arbitrary<Operand> = fc.oneof(
  fc.constantFrom<Operand>({ field: 'n' }, { field: 't' }, { field: 'm' }),
  fc.integer({ min: -3, max: 3 }).map((literal): Operand => ({ literal })),
);
const condition: fc.Arbitrary<Condition> = fc.letrec<{ c: Condition }>((tie) => ({
  c: fc.oneof(
    { maxDepth: 4, withCrossShrink: true },
    fc.tuple(fc.constantFrom('=', '<>', '<', '<=', '>', '>='), operand, operand).map(([op, left, right]) => ({ op, left, right })),
    fc.tuple(operand, operand, operand).map(([value, low, high]): Condition => ({ op: 'between', value, low, high })),
    fc
      .tuple(
        operand,
        fc.array(
          fc.integer({ min: -3, max: 3 }).map((literal) => ({ literal })),
          { minLength: 1, maxLength: 3 },
        ),
      )
      .map(([value, list]): Condition => ({ op: 'in', value, list })),
    operand.map((value): Condition => ({ op: 'null', value })),
    tie('c').map((part): Condition => ({ op: 'not', part })),
    fc.tuple(fc.constantFrom('and', 'or'), fc.array(tie('c'), { minLength: 2, maxLength: 3 })).map(([op, parts]) => ({ op, parts })),
  ),
})).c;

test('what is printed is parsed as the same', () => {
  fc.assert(
    fc.property(condition, (c) => expect(parse(printFilter(c))).toEqual(c)),
    { seed: 61, numRuns: 300 },
  );
});

// Source: SQLite, another implementation of three-valued logic: the printed text is its WHERE clause as it stands.
test('records that meet a condition are those that SQLite finds', () => {
  const db = new Database(':memory:');
  db.exec('CREATE TABLE r (n INTEGER, t REAL, m INTEGER)');
  const rows = [-3, -1, 0, 2, null].flatMap((n) => [-2.5, 0, 3, null].flatMap((t) => [1, null].map((m) => ({ n, t, m }))));
  for (const r of rows) db.prepare('INSERT INTO r VALUES (@n, @t, @m)').run(r);
  let met = 0;
  fc.assert(
    fc.property(condition, (c) => {
      const ours = rows.flatMap((r, i) => (testRecord(c, (f) => r[f as 'n']) === true ? [i + 1] : []));
      const theirs = db
        .prepare(`SELECT rowid FROM r WHERE ${printFilter(c)}`)
        .pluck()
        .all();
      met += ours.length;
      expect(ours).toEqual(theirs);
    }),
    { seed: 62, numRuns: 400 },
  );
  expect(met).toBeGreaterThan(1000);
});

test('LIKE: any text, one character, and themselves', () => {
  const like = (value: string, pattern: string): boolean | null => testRecord(parse(`f LIKE '${pattern}'`), () => value);
  expect([
    like('a.c', 'a.c'),
    like('abc', 'a.c'),
    like('abc', 'a_c'),
    like('a\nb', 'a%'),
    like('50%', '50\\%'),
    like('505', '50\\%'),
  ]).toEqual([true, false, true, true, true, false]);
  expect(testRecord(parse("f ILIKE 'SEA%'"), () => 'seagrass')).toBe(true);
});

test('a filter is checked against the fields', () => {
  const fields = [
    { name: 'Depth', type: 'real' as const },
    { name: 'kind', type: 'text' as const },
  ];
  expect(checkFilter("Depth > 3 AND kind = 'reef'", fields)).toEqual([]);
  expect(checkFilter(' ', fields)).toEqual([]);
  expect(checkFilter('depth > 3', fields)).toEqual([{ at: 0, why: 'there is no field "depth"; there is "Depth"' }]);
  expect(checkFilter("Depth = 'deep'", fields)[0]!.why).toBe(`"Depth" holds numbers, and 'deep' is text`);
  expect(checkFilter('kind = 3', fields)[0]!.why).toMatch(/write '3' in single quotes/);
  expect(checkFilter('Depth >', fields)).toEqual([{ at: 7, why: 'something is missing after ">"' }]);
});

// CWE-674: a parser that calls itself must not be led to the end of the stack.
test.each([`${'('.repeat(20_000)}a = 1${')'.repeat(20_000)}`, `a = ${'-'.repeat(50_000)}1`, `a = ${'('.repeat(30_000)}`])(
  'nesting beyond all measure is told, %.20s',
  (text) => expect(parseFilter(text)).toMatchObject({ ok: false, why: expect.stringMatching(/nested/) }),
);
