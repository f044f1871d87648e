import { analyse } from 'chardet';

export interface GuessedEncoding {
  /** A label of the WHATWG Encoding Standard that the platform decodes. */
  readonly label: string;
  /** 0 to 1: how sure the statistics are. */
  readonly confidence: number;
}

/** Letters in the encodings that geodata is met in; East Asian ones are told apart by their own rules. */
const LIKELY = /^(windows-125\d|iso-8859-\d+|koi8-r|shift_jis|euc-jp|euc-kr|gb18030|big5|utf-8)$/i;

/**
 * The encoding of text that says none: UTF-8 where every byte fits, else by how often letters follow each other (npm package
 * chardet). Null: only ASCII, so that it does not matter.
 */
export function guessEncoding(bytes: Uint8Array): GuessedEncoding | null {
  if (!bytes.some((b) => b >= 0x80)) return null;
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes, { stream: true }); // a character may be cut in two at the end
    return { label: 'utf-8', confidence: 1 };
  } catch {
    const best = analyse(bytes).find((m) => LIKELY.test(m.name) && isDecoded(m.name) && m.name.toLowerCase() !== 'utf-8');
    return best ? { label: best.name.toLowerCase(), confidence: best.confidence / 100 } : { label: 'windows-1252', confidence: 0 };
  }
}

function isDecoded(label: string): boolean {
  try {
    new TextDecoder(label);
    return true;
  } catch {
    return false;
  }
}

/** The encoding of text by its first bytes: by the mark of UTF-16, else as guessed, else UTF-8. */
export function encodingOf(head: Uint8Array): { readonly encoding: string; readonly confidence: number } {
  if (head[0] === 0xff && head[1] === 0xfe) return { encoding: 'utf-16le', confidence: 1 };
  if (head[0] === 0xfe && head[1] === 0xff) return { encoding: 'utf-16be', confidence: 1 };
  const guessed = guessEncoding(head);
  return { encoding: guessed?.label ?? 'utf-8', confidence: guessed?.confidence ?? 1 };
}
