import { SaxesParser, type SaxesTagPlain } from 'saxes';
import { pieces, type ByteSource } from '../bytes/byte-source.js';

export interface XmlEvents {
  /** Local name, without a prefix; attributes by their local names. */
  open(name: string, attributes: Readonly<Record<string, string>>): void;
  text(text: string): void;
  close(name: string): void;
}

const PIECE = 1 << 18;
const local = (name: string): string => name.slice(name.indexOf(':') + 1);

/**
 * Reads XML as it streams by, in bounded memory. Entities of a document's own are not expanded, so that none can grow.
 * UTF-8 and UTF-16 (by its mark) are read; other encodings as ISO-8859-1.
 * @returns why it cannot be read, a clause with line and column; null: it was read to its end
 */
export function readXml(source: ByteSource, events: XmlEvents): string | null {
  const pieces = xmlPieces(source, events);
  for (;;) {
    const step = pieces.next();
    if (step.done) return step.value;
  }
}

/** The same in pieces, so that what the events have gathered can be used on the way. */
export function* xmlPieces(source: ByteSource, events: XmlEvents): Generator<void, string | null> {
  const parser = new SaxesParser({ xmlns: false, position: true });
  let fault: string | null = null;
  parser.on('error', (error) => {
    fault ??= error.message.replace(/^.*?:/, '').trim() + ` (line ${parser.line}, column ${parser.column})`;
  });
  parser.on('opentag', (tag: SaxesTagPlain) => {
    events.open(local(tag.name), Object.fromEntries(Object.entries(tag.attributes).map(([name, value]) => [local(name), value])));
  });
  parser.on('text', (text) => events.text(text));
  parser.on('cdata', (text) => events.text(text));
  parser.on('closetag', (tag) => events.close(local(tag.name)));
  let decoder: TextDecoder | null = null;
  for (const piece of pieces(source, PIECE)) {
    decoder ??= decoderFor(piece);
    parser.write(decoder.decode(piece, { stream: true }));
    if (fault !== null) return fault;
    yield;
  }
  if (decoder === null) return 'it is empty';
  parser.close();
  return fault;
}

function decoderFor(start: Uint8Array): TextDecoder {
  if (start[0] === 0xfe && start[1] === 0xff) return new TextDecoder('utf-16be');
  if (start[0] === 0xff && start[1] === 0xfe) return new TextDecoder('utf-16le');
  const head = new TextDecoder('latin1').decode(start.subarray(0, 200));
  const named = /encoding\s*=\s*["']([\w-]+)["']/.exec(head)?.[1] ?? 'utf-8';
  return new TextDecoder(/^utf-?8$/i.test(named) ? 'utf-8' : /^(windows-\d+|iso-8859-\d+|us-ascii)$/i.test(named) ? named : 'latin1');
}

/** Extent and vertex count as coordinates come by. */
export class ExtentOf {
  private box: [number, number, number, number] | null = null;
  add(x: number, y: number): void {
    if (!Number.isFinite(x) || !Number.isFinite(y)) return;
    const b = this.box;
    this.box = b ? [Math.min(b[0], x), Math.min(b[1], y), Math.max(b[2], x), Math.max(b[3], y)] : [x, y, x, y];
  }
  get bbox(): readonly [number, number, number, number] | null {
    return this.box;
  }
}
