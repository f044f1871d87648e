import { Parser } from 'htmlparser2';
import { oneSpaced, type BlockList, type NoteBlock } from './note.js';

/** What is never text, whatever stands in it. */
const SILENT = new Set(['script', 'style', 'head', 'title', 'template', 'noscript', 'iframe', 'object', 'svg', 'math', 'canvas', 'select']);
/** Elements that begin a piece of their own; all others stand within a line. */
const BLOCKS = new Set(
  'address article aside blockquote body caption center dd div dl dt fieldset figcaption figure footer form header hr html legend li main nav ol p pre section table tbody tfoot thead tr ul'.split(
    ' ',
  ),
);
const HEADING = /^h[1-6]$/;

/**
 * The text of HTML in pieces (headings, paragraphs, items, rows of tables); scripts, styles and what is loaded from elsewhere are
 * left out. An address behind a link is told in brackets where its text is another.
 * @returns how many pictures were in it
 */
export function htmlBlocks(html: string, to: BlockList): number {
  let [words, kind, silent, pictures, cells]: [string, NoteBlock['kind'], number, number, number] = ['', 'text', 0, 0, -1];
  const links: { readonly address: string; readonly from: number }[] = [];
  const flush = (next: NoteBlock['kind'] = 'text'): void => {
    to.add(kind, oneSpaced(words));
    [words, kind] = ['', next];
  };
  const parser = new Parser(
    {
      onopentag(name, { href, alt }) {
        if (SILENT.has(name)) silent++;
        if (silent > 0) return;
        if (name === 'img') {
          pictures++;
          if (alt) words += ` ${alt} `;
        } else if (name === 'br') words += '\n';
        else if (name === 'a') links.push({ address: href ?? '', from: words.length });
        else if (name === 'tr') {
          flush('row');
          cells = 0;
        } else if (name === 'td' || name === 'th') {
          if (cells++ > 0) words += '\t';
        } else if (HEADING.test(name)) flush('heading');
        else if (name === 'li') flush('item');
        else if (BLOCKS.has(name) && cells < 0) flush();
        else if (BLOCKS.has(name)) words += ' ';
      },
      ontext(text) {
        if (silent === 0) words += text.replace(/\s+/g, ' ');
      },
      onclosetag(name) {
        if (SILENT.has(name)) silent = Math.max(0, silent - 1);
        if (silent > 0) return;
        if (name === 'a') {
          const link = links.pop();
          const own = link ? words.slice(link.from).trim() : '';
          if (link && /^(https?|mailto):/i.test(link.address) && own !== link.address && link.address !== `mailto:${own}`)
            words += ` (${link.address})`;
        } else if (name === 'tr') {
          cells = -1;
          flush();
        } else if ((BLOCKS.has(name) || HEADING.test(name)) && cells < 0) flush();
      },
    },
    { decodeEntities: true },
  );
  parser.end(html);
  flush();
  return pictures;
}
