import type { ByteSource } from '../bytes/byte-source.js';
import { readXml } from '../xml/read-xml.js';
import { oneSpaced, type BlockList } from './note.js';

/** Content that is no text of the document itself. */
const SILENT = new Set(['annotation', 'tracked-changes', 'automatic-styles', 'font-face-decls', 'forms', 'scripts', 'note-citation']);

/**
 * The text of `content.xml` of a text document (OpenDocument 1.3, part 3: `text:h`, `text:p`, `text:list-item`, `table:table-row`).
 * @returns how many pictures were in it (`draw:image`), or why it cannot be read
 */
export function odtBlocks(content: ByteSource, to: BlockList): { readonly pictures: number; readonly fault: string | null } {
  let [words, silent, items, pictures, cells] = ['', 0, 0, 0, -1];
  const fault = readXml(content, {
    open: (name, attributes) => {
      if (SILENT.has(name)) silent++;
      if (silent > 0) return;
      if (name === 'list-item') items++;
      else if (name === 'image') pictures++;
      else if (name === 'table-row') [words, cells] = ['', 0];
      else if (name === 'table-cell' && cells >= 0) words += cells++ > 0 ? '\t' : '';
      else if ((name === 'p' || name === 'h') && cells < 0) words = '';
      else if (name === 's') words += ' '.repeat(Math.min(80, Number(attributes['c'] ?? 1) || 1));
      else if (name === 'tab') words += ' ';
      else if (name === 'line-break') words += '\n';
    },
    text: (text) => {
      if (silent === 0) words += text.replace(/\s+/g, ' ');
    },
    close: (name) => {
      if (SILENT.has(name)) silent--;
      if (silent > 0) return;
      if (name === 'list-item') items--;
      else if (name === 'table-row') {
        to.add('row', oneSpaced(words));
        [words, cells] = ['', -1];
      } else if (name === 'p' || name === 'h') {
        if (cells >= 0) words += ' ';
        else {
          to.add(name === 'h' ? 'heading' : items > 0 ? 'item' : 'text', oneSpaced(words));
          words = '';
        }
      }
    },
  });
  return { pictures, fault };
}
