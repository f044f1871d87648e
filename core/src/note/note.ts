/** How a note that came with data is written. */
export type NoteKind = 'text' | 'markdown' | 'html' | 'pdf' | 'docx' | 'odt';

/** A piece of a note. Of a `row` the cells are parted by tabs; a `page` begins a page and tells its number. */
export interface NoteBlock {
  readonly kind: 'heading' | 'text' | 'item' | 'row' | 'page';
  readonly text: string;
}

/** What a note says: text in pieces and nothing else, so that nothing in it can run, load or link. */
export interface Note {
  readonly kind: NoteKind;
  readonly blocks: readonly NoteBlock[];
  /** It says more than is shown here. */
  readonly isCut: boolean;
  /** Pictures that are in it and are not shown; null: nobody counted them. */
  readonly pictures: number | null;
}

const ENDINGS: Readonly<Record<string, NoteKind>> = {
  txt: 'text',
  text: 'text',
  nfo: 'text',
  md: 'markdown',
  markdown: 'markdown',
  htm: 'html',
  html: 'html',
  pdf: 'pdf',
  docx: 'docx',
  odt: 'odt',
};
/** Files without an ending that are notes by common practice (no source). */
const NAMES = /^(readme|licen[cs]e|copying|disclaimer|notice|about)$/i;

/** How a file is written that can be a note, by its name; null: it is none. */
export function noteKindOf(path: string): NoteKind | null {
  const name = path.slice(path.lastIndexOf('/') + 1);
  if (NAMES.test(name)) return 'text';
  return ENDINGS[/\.([^.]+)$/.exec(name)?.[1]?.toLowerCase() ?? ''] ?? null;
}

/** The text of a note in one piece: places in a note are counted in its characters (UTF-16 units). */
export const noteText = ({ blocks }: Pick<Note, 'blocks'>): string => blocks.map((b) => b.text).join('\n');

/** More text than this is not shown: a note that is longer is a book, or made to flood a page. */
const MOST_NOTE_TEXT = 400_000;

/** Takes blocks as long as there is room for their text, and tells whether there was. Empty ones are left out. */
export class BlockList {
  readonly blocks: NoteBlock[] = [];
  isCut = false;
  private left: number;

  constructor(most = MOST_NOTE_TEXT) {
    this.left = most;
  }

  add(kind: NoteBlock['kind'], text: string): void {
    const clean = text.replace(/^(\s*\n)+|\s+$/g, '');
    if (clean === '') return;
    if (this.left <= 0) {
      this.isCut = true;
      return;
    }
    if (clean.length > this.left) this.isCut = true;
    this.blocks.push({ kind, text: clean.slice(0, this.left) });
    this.left -= clean.length;
  }
}

/** Text whose spaces say nothing, as in HTML: one between words, none around lines. */
export const oneSpaced = (text: string): string =>
  text
    .replace(/[^\S\n\t]+/g, ' ')
    .replace(/ ?([\n\t]) ?/g, '$1')
    .trim();

/** Plain text as blocks: an empty line parts them, and lines stay lines. */
export function textBlocks(text: string, to: BlockList): void {
  for (const part of text.replace(/\r\n?/g, '\n').split(/\n[^\S\n]*\n/)) to.add('text', part);
}
