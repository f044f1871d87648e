// The text of a note as JSON on its standard output: node note-child.js KIND FILE. It runs by itself and with bounds, since libraries
// for documents read it: a file that is made to break or to flood them breaks nothing else.
import { buffer } from 'node:stream/consumers';
import { zipSync } from 'fflate';
import { htmlBlocks, BlockList, memorySource, odtBlocks } from '@rootmap/core';
import { openZip } from '../archive/open-zip.js';
import { readFileSync } from '../disk/files.js';
import { boundArrays } from './bound-arrays.js';
import type { ToldNote } from './read-note.js';

/** More than this no document that is a note needs in one piece. */
const MOST_ARRAY_BYTES = 192 << 20;
const MOST_FILE_BYTES = 64 << 20;
const MOST_PAGES = 300;

boundArrays(MOST_ARRAY_BYTES);
const [kind, path] = process.argv.slice(2) as ['markdown' | 'html' | 'pdf' | 'docx' | 'odt', string];
const list = new BlockList();

async function pdf(): Promise<null> {
  const { getDocumentProxy } = await import('unpdf');
  const document = (await getDocumentProxy(new Uint8Array(readFileSync(path, null, MOST_FILE_BYTES)))) as unknown as PdfDocument;
  for (let n = 1; n <= document.numPages; n++) {
    if (n > MOST_PAGES || list.isCut) {
      list.isCut = true;
      break;
    }
    const page = await document.getPage(n);
    if (document.numPages > 1) list.add('page', `Page ${n}`);
    const { items } = await page.getTextContent();
    pagePieces(items);
    page.cleanup();
  }
  return null;
}

/** What is used of the reader's document. */
interface PdfDocument {
  readonly numPages: number;
  getPage(n: number): Promise<{ getTextContent(): Promise<{ readonly items: readonly PdfPiece[] }>; cleanup(): void }>;
}

interface PdfPiece {
  readonly str: string;
  readonly hasEOL: boolean;
  readonly height: number;
  /** Its last two numbers are where it stands. */
  readonly transform: readonly number[];
}

/** A wider gap than this many heights of a line begins a paragraph (common practice, no source). */
const PARAGRAPH = 1.6;

/** Lines of a page as paragraphs: a PDF knows only where letters stand. */
function pagePieces(items: readonly PdfPiece[]): void {
  let [words, last]: [string, PdfPiece | null] = ['', null];
  for (const item of items) {
    const drop = last ? Math.abs((last.transform[5] ?? 0) - (item.transform[5] ?? 0)) : 0;
    if (last && item.str.trim() !== '' && drop > PARAGRAPH * Math.max(item.height, last.height, 1)) {
      list.add('text', words);
      words = '';
    }
    words += item.str + (item.hasEOL ? '\n' : '');
    if (item.str.trim() !== '') last = item;
  }
  list.add('text', words);
}

/** What a document in a zip holds, by the paths that are wanted; never more than a document takes. */
async function unpacked(isWanted: (path: string) => boolean): Promise<Record<string, Uint8Array>> {
  const zip = await openZip(path);
  try {
    const wanted = zip.entries.filter((e) => isWanted(e.path));
    if (wanted.reduce((sum, e) => sum + e.bytes, 0) > MOST_FILE_BYTES)
      throw new Error('it grows beyond what a document takes when it is unpacked');
    const content: Record<string, Uint8Array> = {};
    await zip.read(new Set(wanted.map((e) => e.path)), async (entry, stream) => {
      content[entry.path] = await buffer(stream);
    });
    return content;
  } finally {
    zip.close();
  }
}

async function docx(): Promise<number> {
  const { default: mammoth } = await import('mammoth');
  // Pictures stay packed: they are counted, and not shown.
  const parts = await unpacked((name) => /\.(xml|rels)$/i.test(name));
  const noPicture = mammoth.images.imgElement(() => Promise.resolve({ src: '' }));
  const { value } = await mammoth.convertToHtml({ buffer: Buffer.from(zipSync(parts, { level: 0 })) }, { convertImage: noPicture });
  return htmlBlocks(value, list);
}

async function odt(): Promise<number> {
  const content = (await unpacked((name) => name === 'content.xml'))['content.xml'];
  if (!content) throw new Error('there is no content.xml in it');
  const { pictures, fault } = odtBlocks(memorySource(content), list);
  if (fault !== null) throw new Error(`it is damaged: ${fault}`);
  return pictures;
}

async function markdown(): Promise<number> {
  const { marked } = await import('marked');
  return htmlBlocks(await marked.parse(text(), { async: true }), list);
}

const text = (): string => readFileSync(path, 'utf8', MOST_FILE_BYTES);

const READ = { pdf, docx, odt, markdown, html: () => htmlBlocks(text(), list) };

async function tell(): Promise<ToldNote> {
  try {
    const pictures = await READ[kind]();
    return { blocks: list.blocks, isCut: list.isCut, pictures };
  } catch (error) {
    const { name, message } = error as Error;
    return { why: name === 'PasswordException' ? 'it is encrypted, and asks for a password' : message.split('\n')[0]!.replace(/\.$/, '') };
  }
}

process.stdout.write(JSON.stringify(await tell()), () => process.exit(0));
