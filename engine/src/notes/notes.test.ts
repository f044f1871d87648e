import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { closeSync, createWriteStream, ftruncateSync, mkdirSync, mkdtempSync, openSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { once } from 'node:events';
import PDFDocument from 'pdfkit';
import { zipSync } from 'fflate';
import { explain, noteText, ProblemError } from '@rootmap/core';
import { noteInArchive } from './note-in-archive';
import { readNote } from './read-note';

let folder: string;
const at = (name: string): string => join(folder, name);
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'notes-'));
});
afterAll(() => rmSync(folder, { recursive: true }));

async function pdf(name: string, pages: readonly (readonly string[])[], options: PDFKit.PDFDocumentOptions = {}): Promise<string> {
  const document = new PDFDocument({ ...options, autoFirstPage: false });
  const file = createWriteStream(at(name));
  document.pipe(file);
  for (const lines of pages) {
    document.addPage();
    for (const line of lines) document.text(line).moveDown(2);
  }
  document.end();
  await once(file, 'close');
  return at(name);
}

/** The parts that a word-processor file must have (ECMA-376, part 2, 9 and part 1, 11.3.10). */
function docx(name: string, body: string): string {
  const type = 'application/vnd.openxmlformats';
  writeFileSync(
    at(name),
    zipSync({
      '[Content_Types].xml': bytes(
        `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="${type}-package.relationships+xml"/><Override PartName="/word/document.xml" ContentType="${type}-officedocument.wordprocessingml.document.main+xml"/></Types>`,
      ),
      '_rels/.rels': bytes(
        '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="a" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/></Relationships>',
      ),
      'word/document.xml': bytes(
        `<w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>${body}</w:body></w:document>`,
      ),
    }),
  );
  return at(name);
}
const para = (text: string): string => `<w:p><w:r><w:t xml:space="preserve">${text}</w:t></w:r></w:p>`;

const why = (read: () => unknown): string => {
  try {
    read();
  } catch (error) {
    if (error instanceof ProblemError) return explain(error.problem);
    throw error;
  }
  return 'it was read';
};
const words = (text: string): string[] => text.split(/\s+/).filter(Boolean);

describe('what documents say', () => {
  test('of a PDF is word for word what pdftotext (Poppler) reads, page by page', async () => {
    const path = await pdf('a.pdf', [
      ['Depth soundings of the outer bay', 'Coordinates are in US survey feet. Datum NAD 83.'],
      ['Not for navigation.'],
    ]);
    const note = readNote(path);
    expect(note.blocks.filter((b) => b.kind === 'page').map((b) => b.text)).toEqual(['Page 1', 'Page 2']);
    const own = noteText({ blocks: note.blocks.filter((b) => b.kind !== 'page') });
    expect(words(own)).toEqual(words(execFileSync('pdftotext', [path, '-'], { encoding: 'utf8' })));
    expect(note.blocks.filter((b) => b.kind === 'text').length).toBe(3); // lines far from each other are paragraphs
  });

  test('of a docx is what its text elements hold, as ElementTree of Python finds them', () => {
    const path = docx(
      'a.docx',
      `${para('Units: feet &amp; inches')}<w:tbl><w:tr><w:tc>${para('a')}</w:tc><w:tc>${para('b')}</w:tc></w:tr></w:tbl>${para('end')}`,
    );
    const note = readNote(path);
    const script =
      'import sys,zipfile,xml.etree.ElementTree as E;print(" ".join(t.text for t in E.fromstring(zipfile.ZipFile(sys.argv[1]).read("word/document.xml")).iter() if t.tag.endswith("}t")))';
    expect(words(noteText(note))).toEqual(words(execFileSync('python3', ['-c', script, path], { encoding: 'utf8' })));
    expect(note.blocks.map((b) => b.kind)).toEqual(['text', 'row', 'text']);
  });

  test('of an odt, of Markdown, of HTML and of plain text', () => {
    writeFileSync(at('a.odt'), zipSync({ 'content.xml': bytes('<d><text:h>Title</text:h><text:p>Units: feet</text:p></d>') }));
    writeFileSync(at('a.md'), '# Title\n\nUnits: *feet*\n\n| a | b |\n|---|---|\n| 1 | 2 |\n\n<script>alert(1)</script>');
    writeFileSync(at('a.html'), '<h1>Title</h1><p>Units: <b>feet</b></p><script>alert(1)</script>');
    writeFileSync(at('README'), 'Title\n\nUnits: feet');
    for (const name of ['a.odt', 'a.html', 'README']) expect(words(noteText(readNote(at(name))))).toEqual(['Title', 'Units:', 'feet']);
    expect(readNote(at('a.md')).blocks.map((b) => `${b.kind}: ${b.text}`)).toEqual([
      'heading: Title',
      'text: Units: feet',
      'row: a\tb',
      'row: 1\t2',
    ]);
  });

  test('is read out of an archive, and out of one in it, before anything is unpacked', async () => {
    const inner = zipSync({ 'docs/readme.txt': bytes('Units: feet') });
    writeFileSync(at('b.zip'), zipSync({ 'notes/terms.html': bytes('<p>No warranty.</p>'), 'inner.zip': inner }));
    expect(noteText(await noteInArchive(at('b.zip'), 'notes/terms.html'))).toBe('No warranty.');
    expect(noteText(await noteInArchive(at('b.zip'), 'inner/docs/readme.txt'))).toBe('Units: feet');
    await expect(noteInArchive(at('b.zip'), 'notes/none.txt')).rejects.toThrow('There is no note');
    mkdirSync(at('loose'));
    writeFileSync(at('loose/a.txt'), 'Here.');
    expect(noteText(await noteInArchive(at('loose'), 'a.txt'))).toBe('Here.');
    await expect(noteInArchive(at('loose'), '../README')).rejects.toThrow('There is no note');
  });
});

describe('what cannot be read is a sentence', () => {
  test('a PDF that asks for a password', async () => {
    const path = await pdf('locked.pdf', [['secret']], { userPassword: 'x', pdfVersion: '1.7' });
    expect(why(() => readNote(path))).toMatch(/locked\.pdf cannot be shown: it is encrypted/);
  });

  test('damaged ones, each by its kind', () => {
    for (const name of ['bad.pdf', 'bad.docx', 'bad.odt']) {
      writeFileSync(at(name), 'no such thing');
      expect(why(() => readNote(at(name)))).toMatch(new RegExp(`^${name} cannot be shown: .*\\. Open it with`));
    }
    writeFileSync(at('empty.odt'), zipSync({ mimetype: bytes('x') }));
    expect(why(() => readNote(at('empty.odt')))).toMatch('there is no content.xml in it');
  });

  test('bombs: a docx and a PDF that grow a thousand times, and one that is packed twice', () => {
    docx('bomb.docx', para('A'.repeat(200 << 20)));
    const flood = deflateSync(Buffer.alloc(1 << 30, 32), { level: 9 });
    const page = (content: Uint8Array, filter: string): Buffer =>
      Buffer.concat([
        bytes('%PDF-1.4\n1 0 obj\n<< /Type /Catalog /Pages 2 0 R >>\nendobj\n2 0 obj\n<< /Type /Pages /Kids [3 0 R] /Count 1 >>\nendobj\n'),
        bytes(`3 0 obj\n<< /Type /Page /Parent 2 0 R /MediaBox [0 0 9 9] /Contents 4 0 R /Resources << >> >>\nendobj\n`),
        bytes(`4 0 obj\n<< /Length ${content.length} /Filter ${filter} >>\nstream\n`),
        content,
        bytes('\nendstream\nendobj\ntrailer << /Root 1 0 R >>\n'),
      ]);
    writeFileSync(at('bomb.pdf'), page(flood, '/FlateDecode'));
    writeFileSync(at('twice.pdf'), page(deflateSync(flood), '[/FlateDecode /FlateDecode]'));
    for (const name of ['bomb.docx', 'bomb.pdf', 'twice.pdf'])
      expect(why(() => readNote(at(name)))).toMatch(/cannot be shown: it grows beyond/);
  });

  test('500 MB: of text its beginning is shown, another document is too large', () => {
    for (const name of ['long.txt', 'long.pdf']) {
      const file = openSync(at(name), 'w');
      writeSync(file, 'Units: feet\n');
      ftruncateSync(file, 500 << 20);
      writeSync(file, 'x'.repeat(8192), 400 << 20); // so that it has blocks, and is no file that stands in the cloud only
      closeSync(file);
    }
    const note = readNote(at('long.txt'));
    expect(note.isCut).toBe(true);
    expect(note.blocks[0]!.text).toMatch(/^Units: feet/);
    expect(why(() => readNote(at('long.pdf')))).toMatch(/more than the 67108864 that are read/);
  });
});
