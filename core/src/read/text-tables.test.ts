import { describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { memorySource } from '../bytes/byte-source';
import { csvFeatures } from '../format/csv/csv-features';
import { csvRows, layoutOf } from '../format/csv/csv-rows';
import { writeCsvw } from '../format/csv/csvw';
import { describeCsv } from '../format/csv/describe-csv';
import { degreesOf, isoDate } from '../format/csv/written-as';
import { readWkb } from '../geometry/read-wkb';
import { tellAgreement } from '../../test/agreement';
import { csvFile } from '../../test/csv-file';

const crs = { codeOf: () => null, nameOf: () => 'WGS 84' };
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

function read(content: string | Uint8Array, csvt?: string, metadata?: string) {
  const { group, open } = csvFile(content, csvt, metadata);
  const description = describeCsv(group, open, crs);
  const records = [...csvFeatures(group, open, description.fields!, { geometry: true, values: true }).features];
  const points = records.map(({ geometry }) => {
    let at: readonly [number, number] | null = null;
    if (geometry) readWkb(geometry, { vertex: (x, y) => (at = [x, y]) });
    return at;
  });
  return {
    ...description,
    types: Object.fromEntries(description.fields!.map((f) => [f.name, f.writtenAs ? `${f.type} ${f.writtenAs}` : f.type])),
    values: records.map((r) => r.values),
    points,
    codes: description.findings.map((f) => f.code),
  };
}

describe('ends of lines', () => {
  test.each([
    ['CRLF', 'name;n\r\nÆ;1\r\nB;2\r\n'],
    ['CR', 'name;n\rÆ;1\rB;2\r'],
    ['LF', 'name;n\nÆ;1\nB;2'],
    ['all three, and quotes', 'name;n\r\n"Æ";"1"\r"B";"2"\n'],
    ['a line that tells the delimiter', 'sep=;\r\nname;n\r\nÆ;1\r\nB;2\r\n'],
    ['a mark and a line that tells the delimiter', '\uFEFFsep=;\r\nname;n\r\nÆ;1\r\nB;2\r\n'],
  ])('%s: nothing of them is in a value', (_, text) => {
    expect(read(text)).toMatchObject({
      featureCount: 2,
      types: { name: 'text', n: 'integer' },
      values: [
        ['Æ', 1],
        ['B', 2],
      ],
    });
  });

  // Outside reference: Python's csv module, on rows of seeded noise. RFC 4180 is what both read.
  test('rows of noise are read as Python reads them, also where a piece ends within a record', () => {
    const folder = mkdtempSync(join(tmpdir(), 'rootmap-csv-'));
    let state = 7;
    const random = (n: number): number => (state = (state * 48271) % 2147483647) % n;
    const ends = ['\r\n', '\n', '\r'];
    const texts = Array.from({ length: 60 }, (_, i) => {
      const delimiter = [',', ';', '\t', '|'][i % 4]!;
      const parts = ['a', 'bc', ' ', 'ü', '""', '\r\n', '\n', '\r', delimiter, 'x'.repeat(random(40))];
      const value = (): string => {
        const text = Array.from({ length: random(5) }, () => parts[random(parts.length)]!).join('');
        return /["\r\n]/.test(text) || text.includes(delimiter) ? `"${text}"` : text;
      };
      const rows = Array.from(
        { length: 200 },
        () => Array.from({ length: 4 }, value).join(delimiter) + ends[i % 5 < 3 ? i % 5 : random(3)]!,
      );
      return { delimiter, text: ['p', 'q', 'r', 's'].join(delimiter) + '\r\n' + rows.join('') };
    });
    texts.forEach(({ text }, i) => writeFileSync(join(folder, `${i}.csv`), text));
    const script = `import csv, json, sys
out = []
for i in range(${texts.length}):
    with open(f'{sys.argv[1]}/{i}.csv', newline='', encoding='utf-8') as f:
        out.append([r for r in csv.reader(f, delimiter=',;\\t|'[i % 4]) if r])
json.dump(out, sys.stdout)`;
    const theirs = JSON.parse(execFileSync('/usr/bin/python3', ['-c', script, folder], { maxBuffer: 1 << 28 }).toString()) as string[][][];
    rmSync(folder, { recursive: true });
    texts.forEach(({ text, delimiter }, i) => {
      const source = memorySource(bytes(text));
      const layout = { ...layoutOf(source), delimiter };
      expect([i, [...csvRows(source, layout)]]).toEqual([i, theirs[i]!.filter((row) => row.length > 1 || row[0] !== '')]);
      // In small pieces: any place may be the end of one.
      const small = { sizeBytes: source.sizeBytes, read: (at: number) => source.read(at, 37) };
      expect([...csvRows(small, layout)]).toEqual(theirs[i]);
    });
    tellAgreement("Tables of text with seeded noise, row by row as Python's csv module reads them", texts.length, 0, texts.length);
    expect(texts.filter(({ text, delimiter }) => layoutOf(memorySource(bytes(text))).delimiter === delimiter).length).toBe(texts.length);
  });
});

describe('types', () => {
  test('codes keep their leading zeros; a .csvt that says text is followed, also for what looks like numbers', () => {
    const text = 'plz,ags,n,tel\n01067,05112000,1,+4930123456\n80331,09162000,12,+4989123456\n';
    expect(read(text).types).toEqual({ plz: 'text', ags: 'text', n: 'integer', tel: 'text' });
    expect(read(text).values[0]).toEqual(['01067', '05112000', 1, '+4930123456']);
    const stated = read('plz,n,v\n80331,5,1\n80333,6,2\n', '"String(5)","Integer","Real(10.2)"');
    expect([stated.types, stated.values[0]]).toEqual([{ plz: 'text', n: 'integer', v: 'real' }, ['80331', 5, 1]]);
    const wrong = read('n\nten\n', '"Integer"');
    expect([wrong.types, wrong.codes]).toEqual([{ n: 'text' }, ['csvt-differs']]);
  });

  test('whole numbers of any length keep every digit', () => {
    expect(read('a,b,c\n123456789012345678,12345678901234567890,1\n').values[0]).toEqual([123456789012345678n, '12345678901234567890', 1]);
  });

  test('decimal commas are numbers, and it is told; what could be thousands is left as text, and told', () => {
    const german = read('ort;wert;gross;menge\r\nA;12,5;1.234,5;1.234\r\nB;-0,25;12.345.678,00;2.500\r\n');
    expect([german.types, german.values]).toEqual([
      { ort: 'text', wert: 'real comma', gross: 'real comma', menge: 'text' },
      [
        ['A', 12.5, 1234.5, '1.234'],
        ['B', -0.25, 12345678, '2.500'],
      ],
    ]);
    expect(german.codes).toEqual(['decimal-comma', 'two-ways']);
    expect(read('a;b\n1,234;x\n2,500;y\n')).toMatchObject({ types: { a: 'text', b: 'text' }, codes: ['two-ways'] });
    expect(read('a,b\n"12,5","3,75"\n').types).toEqual({ a: 'real comma', b: 'real comma' });
    expect(read('a,b\n1.234,2\n').types).toEqual({ a: 'real', b: 'integer' });
  });

  test('days, the day or the month first; what could be both is text, and told', () => {
    const table = read(
      'a;b;c;d;e\n31.12.2025;12/31/2025;01/02/2025;2025-12-31;30.02.2025\n1.2.2024;02/03/2024;03/04/2025;2024-02-29;01.01.2025\n',
    );
    expect([table.types, table.values[0], table.codes]).toEqual([
      { a: 'date day-first', b: 'date month-first', c: 'text', d: 'date', e: 'text' },
      ['2025-12-31', '2025-12-31', '01/02/2025', '2025-12-31', '30.02.2025'],
      ['month-first', 'two-ways'],
    ]);
    expect([isoDate('29.02.2023', false), isoDate('29.02.2024', false)]).toEqual([null, '2024-02-29']);
  });
});

describe('the first row', () => {
  test.each([
    ['names', 'a,b\n1,2\n', true],
    ['names of columns of text', 'a,b\nx,y\n', true],
    ['values', '1,2\n3,4\n', false],
    ['values, one of them text', 'x,2\ny,4\n', false],
    ['years above numbers', 'country,2019,2020\nA,1.5,2.5\nB,3,4\n', true],
    ['names alone', 'a,b\n', true],
    ['a name above days', 'day,n\n2025-01-01,x\n', true],
  ])('%s', (_, text, hasNames) => {
    const { fields, codes, featureCount, values } = read(text);
    expect(fields![0]!.name === 'field_1').toBe(!hasNames);
    expect(codes).toEqual(hasNames ? [] : ['no-names']);
    expect(values).toHaveLength(featureCount!);
  });
});

describe('places', () => {
  test('by names in several languages, with a decimal comma, with degrees, minutes and seconds', () => {
    expect(read('Name;Rechtswert;Hochwert\r\nA;3456789,12;5812345,5\r\n')).toMatchObject({
      kind: 'vector',
      points: [[3456789.12, 5812345.5]],
      bbox: [3456789.12, 5812345.5, 3456789.12, 5812345.5],
      crs: null,
    });
    const degrees = read(`name,Längengrad,Breitengrad\nA,"10°30'00""E","54°12'36""N"\nB,10 15 0 W,54 30.5 S\n`);
    expect(degrees).toMatchObject({ kind: 'vector', crs: { code: 'EPSG:4326' } });
    expect(degrees.points.flat().map((v) => Math.round(v! * 1e6) / 1e6)).toEqual([10.5, 54.21, -10.25, -54.508333]);
    expect(degrees.values[0]!.slice(1)).toEqual([`10°30'00"E`, `54°12'36"N`]);
    for (const [x, y] of [
      ['longitud', 'latitud'],
      ['GPS_Lon', 'GPS_Lat'],
      ['ostwert', 'nordwert'],
      ['X_L93', 'Y_L93'],
    ])
      expect([x, read(`n,${x},${y}\nA,5.5,44.5\n`).kind]).toEqual([x, 'vector']);
  });

  // 48°51'29.6" is 48.858222…: worked by hand from 51/60 + 29.6/3600.
  test('degrees: signs, sides, and what is none', () => {
    expect(degreesOf(`48°51'29.6"N`)).toBeCloseTo(48 + 51 / 60 + 29.6 / 3600, 12);
    expect([degreesOf('-10 30'), degreesOf('S 10° 30′'), degreesOf('10:30:00')]).toEqual([-10.5, -10.5, 10.5]);
    for (const none of ['10', '10.5', '54 75 00', 'N 10 30 S', '-10 30 S', '10°30 O', 'A 10 30', ''])
      expect([none, degreesOf(none)]).toEqual([none, null]);
  });
});

describe('what is said of a table beside it (W3C, Metadata Vocabulary for Tabular Data, 5.9)', () => {
  const described = (table: Uint8Array, metadata: string) => read(table, undefined, metadata);
  // "Æ1;b" in windows-1252, where a semicolon stands in a value of a table that is apart by bars.
  const bars = Uint8Array.from([0xc6, 0x31, 0x3b, 0x78, 0x7c, 0x62, 0x0a, 0x80, 0x3b, 0x79, 0x7c, 0x32, 0x0a]);

  test('its delimiter, encoding and header count', () => {
    const dialect = { delimiter: '|', encoding: 'windows-1252', header: false };
    const d = described(bars, JSON.stringify({ '@context': 'http://www.w3.org/ns/csvw', url: 't.csv', dialect }));
    expect(d.fields!.map((f) => f.name)).toEqual(['field_1', 'field_2']);
    expect(d.featureCount).toBe(2);
    expect(d.values).toEqual([
      ['Æ1;x', 'b'],
      ['€;y', '2'],
    ]);
    expect(d.findings).toEqual([]);
    expect(described(bars, JSON.stringify({ dialect: { ...dialect, header: true } })).fields!.map((f) => f.name)).toEqual(['Æ1;x', 'b']);
  });
  test.each([
    ['no json', 'it is no JSON object'],
    [JSON.stringify({ dialect: { delimiter: '||' } }), 'its delimiter "||" is not one character'],
    [JSON.stringify({ dialect: { encoding: 'letters' } }), 'its encoding "letters" is not known'],
  ])('%s is told, and the table is read all the same', (metadata, why) => {
    const d = described(bars, metadata);
    expect(d.featureCount).toBeGreaterThan(0);
    expect(d.findings.find((f) => f.code === 'csvw-unclear')?.message).toBe(`a.csv-metadata.json is not followed: ${why}.`);
  });
  test('what others wrote into it stays when something is said', () => {
    const before =
      '{\n  "@context": "http://www.w3.org/ns/csvw",\n  "dc:title": "Soundings",\n  "dialect": { "commentPrefix": "#", "encoding": "utf-8" }\n}\n';
    const after = writeCsvw(before, 't.csv', { delimiter: ';', encoding: null, hasNames: true });
    expect(JSON.parse(after)).toEqual({
      '@context': 'http://www.w3.org/ns/csvw',
      'dc:title': 'Soundings',
      dialect: { commentPrefix: '#', delimiter: ';', header: true },
    });
    expect(JSON.parse(writeCsvw(null, 't.csv', { delimiter: '\t', encoding: 'koi8-r', hasNames: null }))).toEqual({
      '@context': 'http://www.w3.org/ns/csvw',
      url: 't.csv',
      dialect: { delimiter: '\t', encoding: 'koi8-r' },
    });
  });
});
