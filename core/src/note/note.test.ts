import { describe, expect, test } from '@jest/globals';
import { memorySource } from '../bytes/byte-source';
import { decodeText } from './decode-text';
import { htmlBlocks } from './html-blocks';
import { likelyPassages } from './likely-passages';
import { BlockList, noteKindOf, noteText, textBlocks } from './note';
import { odtBlocks } from './odt-blocks';
import { statedCodes, statedDatum, statedScales, statedUnit, statedYear } from './read-stated';

const html = (text: string): BlockList => {
  const list = new BlockList();
  htmlBlocks(text, list);
  return list;
};

test('what can be a note is told by its name', () => {
  expect(['a.txt', 'x/README', 'a.PDF', 'b.docx', 'c.odt', 'd.htm', 'e.md'].map(noteKindOf)).toEqual([
    'text',
    'text',
    'pdf',
    'docx',
    'odt',
    'html',
    'markdown',
  ]);
  expect(['a.shp', 'a.doc', 'txt', 'a.txt.gz', ''].map(noteKindOf)).toEqual([null, null, null, null, null]);
});

describe('HTML', () => {
  test('is text and nothing else: nothing that runs, loads or leads elsewhere unseen', () => {
    const { blocks } = html(
      '<title>t</title><script>bad()</script><style>p{}</style><svg><text>bad</text></svg><p onclick="bad()">a <a href="javascript:bad()">b</a> &lt;i&gt; <img src="http://x.example/bad.png" alt="c"></p><iframe src="bad">bad</iframe>',
    );
    expect(blocks).toEqual([{ kind: 'text', text: 'a b <i> c' }]);
  });
  test('keeps headings, items, rows and where a link leads', () => {
    expect(
      html('<h2>A</h2><ul><li>b<li>c</ul><table><tr><th>d<td><p>e</p><tr><td>f</table><p>g<br>h <a href="https://x.example/">i</a>').blocks,
    ).toEqual([
      { kind: 'heading', text: 'A' },
      { kind: 'item', text: 'b' },
      { kind: 'item', text: 'c' },
      { kind: 'row', text: 'd\te' },
      { kind: 'row', text: 'f' },
      { kind: 'text', text: 'g\nh i (https://x.example/)' },
    ]);
  });
  test('that is broken, deep or endless ends all the same', () => {
    expect(
      html('<p>a<b>c</p></i></table><td>d')
        .blocks.map((b) => b.text)
        .join(' '),
    ).toBe('ac d');
    expect(html('<div>'.repeat(50_000) + 'x').blocks).toEqual([{ kind: 'text', text: 'x' }]);
    const long = html('<p>abcdefghi</p>'.repeat(100_000));
    expect(long.isCut).toBe(true);
    expect(noteText(long).length).toBeLessThan(500_000);
  });
});

test('plain text keeps its lines, and is read in the encoding that it is likely in', () => {
  const list = new BlockList();
  textBlocks('\uFEFFa  b\r\n c\r\n\r\n\r\nd', list);
  expect(list.blocks.map((b) => b.text)).toEqual(['\uFEFFa  b\n c', 'd']);
  expect(decodeText(Uint8Array.from([0xef, 0xbb, 0xbf, 0x41]))).toBe('A');
  expect(decodeText(Uint8Array.from([0xff, 0xfe, 0x41, 0, 0xe6, 0]))).toBe('Aæ');
  expect(decodeText(new TextEncoder().encode('Tiefe in Fuß'))).toBe('Tiefe in Fuß');
});

test('a text document tells headings, items and rows; what was struck out and remarks stay out', () => {
  const list = new BlockList();
  const xml =
    '<d><text:tracked-changes><text:p>gone</text:p></text:tracked-changes><text:h>A</text:h><text:p>b<text:s text:c="2"/>c<office:annotation><text:p>remark</text:p></office:annotation></text:p><text:list><text:list-item><text:p>d</text:p></text:list-item></text:list><table:table-row><table:table-cell><text:p>e</text:p></table:table-cell><table:table-cell><text:p>f</text:p></table:table-cell></table:table-row><draw:image/></d>';
  expect(odtBlocks(memorySource(new TextEncoder().encode(xml)), list)).toEqual({ pictures: 1, fault: null });
  expect(list.blocks).toEqual([
    { kind: 'heading', text: 'A' },
    { kind: 'text', text: 'b c' },
    { kind: 'item', text: 'd' },
    { kind: 'row', text: 'e\tf' },
  ]);
  expect(odtBlocks(memorySource(new TextEncoder().encode('<a><b></a>')), new BlockList()).fault).toMatch(/line 1/);
});

test('sentences that look as if they told something are found with their place', () => {
  const list = new BlockList();
  textBlocks(
    'Soundings of the outer bay\nDatum: NAD 83, UTM zone 10\nUnits: feet\nScale: 1:24,000\n\nSurveyed in May 1998. The data is not suitable for navigation. You may use it under CC BY 4.0. There are 40 feet of shelves in the office, and one is red.',
    list,
  );
  const found = likelyPassages(list);
  expect(found.map((p) => [p.about, p.words])).toEqual([
    ['crs', 'Datum: NAD 83, UTM zone 10'],
    ['units', 'Units: feet'],
    ['scale', 'Scale: 1:24,000'],
    ['date', 'Surveyed in May 1998.'],
    ['limits', 'The data is not suitable for navigation.'],
    ['licence', 'You may use it under CC BY 4.0.'],
  ]);
  for (const { at, words } of found) expect(noteText(list).slice(at, at + words.length)).toBe(words);
});

test('units, codes, datums, scales and years are read out of words', () => {
  expect(statedUnit('Coordinates are in US survey feet')).toEqual({ unit: 'US survey foot', isVertical: false });
  expect(statedUnit('Depths in feet below datum')).toEqual({ unit: 'foot', isVertical: true });
  expect(statedUnit('Units: metres (not feet)')?.unit).toBe('metre');
  expect(statedUnit('no unit here')).toBeNull();
  expect(statedCodes('urn:ogc:def:crs:EPSG::25832 or EPSG: 4326, epsg:3857; not 31467')).toEqual(['EPSG:25832', 'EPSG:4326', 'EPSG:3857']);
  expect(statedDatum('in NAD 27')?.matches('North American Datum 1927')).toBe(true);
  expect(statedDatum('in NAD 27')?.matches('North American Datum 1983')).toBe(false);
  expect(statedDatum('ETRS89 / UTM')?.matches('European Terrestrial Reference System 1989 ensemble')).toBe(true);
  expect(statedDatum('somewhere')).toBeNull();
  expect(statedScales('1:24,000 and 1 : 10 000, at 1:5000; 1:2')).toEqual([5000, 10_000, 24_000]);
  expect(statedYear('surveyed 1998, printed 2004, sheet 12019')).toBe(2004);
  expect(statedYear('no year')).toBeNull();
});
