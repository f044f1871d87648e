/** Text between two `%`: its characters, null for `_`. */
type Piece = readonly (string | null)[];

/**
 * A test of text against a pattern as in CQL2's LIKE (OGC 21-065, section 8.2): `%` stands for any text, `_` for one character, `\`
 * before either, or before itself, for itself. Pieces between `%` are looked for from left to right, each once, so that no pattern makes
 * the time grow beyond text times pattern, as a regular expression does that goes back over what it tried.
 */
export function likePattern(pattern: string, ignoresCase: boolean): (text: string) => boolean {
  const fold = ignoresCase ? foldCase : (text: string): string => text;
  const pieces = piecesOf(pattern).map((piece) => piece.map((c) => c && fold(c)));
  const [first, last] = [pieces[0]!, pieces.at(-1)!];
  const middle = pieces.slice(1, -1).filter((p) => p.length > 0);
  return (text) => {
    const chars = [...text].map(fold);
    if (pieces.length === 1) return chars.length === first.length && standsAt(first, chars, 0);
    const end = chars.length - last.length;
    if (first.length > end || !standsAt(first, chars, 0) || !standsAt(last, chars, end)) return false;
    let at = first.length;
    for (const piece of middle) {
      while (at + piece.length <= end && !standsAt(piece, chars, at)) at++;
      if (at + piece.length > end) return false;
      at += piece.length;
    }
    return true;
  };
}

function piecesOf(pattern: string): Piece[] {
  const pieces: (string | null)[][] = [[]];
  const chars = [...pattern];
  for (let i = 0; i < chars.length; i++) {
    const c = chars[i]!;
    const next = chars[i + 1];
    if (c === '%') pieces.push([]);
    else if (c === '_') pieces.at(-1)!.push(null);
    else if (c === '\\' && next !== undefined && '%_\\'.includes(next)) pieces.at(-1)!.push(chars[++i]!);
    else pieces.at(-1)!.push(c);
  }
  return pieces;
}

function standsAt(piece: Piece, chars: readonly string[], at: number): boolean {
  for (let i = 0; i < piece.length; i++) if (piece[i] !== null && piece[i] !== chars[at + i]) return false;
  return true;
}

/** Simple case folding: one character stays one. */
const foldCase = (char: string): string => one(one(char, char.toUpperCase()), one(char, char.toUpperCase()).toLowerCase());
const one = (char: string, changed: string): string => (changed.length === char.length ? changed : char);
