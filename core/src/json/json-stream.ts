/**
 * A strict JSON reader (RFC 8259) that is fed text in pieces and reports tokens with their offsets. Memory is bounded by
 * the longest single token. Used in one piece for map files (where offsets matter) and in many for large GeoJSON.
 */
export interface JsonHandler {
  startObject?(offset: number): void;
  endObject?(endOffset: number): void;
  startArray?(offset: number): void;
  endArray?(endOffset: number): void;
  key?(name: string, offset: number): void;
  string?(value: string, offset: number, endOffset: number): void;
  number?(value: number, offset: number, endOffset: number): void;
  literal?(value: boolean | null, offset: number, endOffset: number): void;
}

/** Where and what was wrong; `line` and `column` count from 1, columns in UTF-16 code units. */
export class JsonError extends Error {
  constructor(
    readonly line: number,
    readonly column: number,
    readonly expected: string,
  ) {
    super(`line ${line}, column ${column}: expected ${expected}`);
  }
}

const enum Expect {
  Value,
  ValueOrEnd,
  KeyOrEnd,
  Key,
  Colon,
  CommaOrEnd,
  Nothing,
}
const EXPECTED = [
  'a value',
  'a value or ]',
  'a name in quotes or }',
  'a name in quotes',
  'a colon',
  'a comma or the closing bracket',
  'nothing more',
];

/** Deeper nesting than any real file has; refused before it can cost memory. */
export const MAX_DEPTH = 512;
/** The longest single string or number that is kept, in UTF-16 code units. */
const MAX_TOKEN = 8 * 1024 * 1024;

const RECORD_SEPARATOR = 0x1e;
const NUMBER = /-?(?:0|[1-9][0-9]*)(?:\.[0-9]+)?(?:[eE][+-]?[0-9]+)?/y;
const NUMBER_CHARACTERS = /[-+0-9.eE]*/y;

/** A quote, or what no string may hold. */

const ENDS_STRING = /["\u0000-\u001f]/;

export class JsonStream {
  private text = '';
  /** Pieces that came after `text`. */
  private waiting: string[] = [];
  private waitingLength = 0;
  private base = 0; // offset of text[0] in the whole input
  private at = 0;
  private readonly stack: ('{' | '[')[] = [];
  private expect: Expect = Expect.Value;
  private line = 1;
  private lineStart = 0; // offset of the first character of the line
  private final = false;
  /** How far into the token at `at` a string has been looked through that does not end yet: it is not looked through again. */
  private looked = 0;
  private lookedEscaped = false;

  /**
   * @param roots `many`: one value after the other, with line ends or the record separator between them (RFC 8142, and newline-delimited
   * JSON, which is common practice); there may be none
   */
  constructor(
    private readonly handler: JsonHandler,
    private readonly roots: 'one' | 'many' = 'one',
  ) {}

  /** Feeds a piece. Throws `JsonError` at the first character that is not JSON. */
  write(piece: string): void {
    this.waiting.push(piece);
    this.waitingLength += piece.length;
    // In the middle of a string, what can neither end it nor break it is not joined to the rest yet: joining copies all of it.
    if (this.looked === 0 || ENDS_STRING.test(piece)) {
      this.takeWaiting();
      this.run();
    }
    if (this.text.length - this.at + this.waitingLength > MAX_TOKEN) this.failAt(this.at, 'a shorter string');
  }

  private takeWaiting(): void {
    this.text = this.text.slice(this.at) + this.waiting.join('');
    this.base += this.at;
    this.at = 0;
    this.waiting = [];
    this.waitingLength = 0;
  }

  /** Tells that no more comes. */
  end(): void {
    this.final = true;
    this.takeWaiting();
    this.run();
    if (this.expect !== Expect.Nothing && !this.isBetweenRoots()) this.failAt(this.text.length, EXPECTED[this.expect]!);
  }

  private failAt(at: number, expected: string): never {
    throw new JsonError(this.line, this.base + at - this.lineStart + 1, expected);
  }

  private run(): void {
    const text = this.text;
    while (this.at < text.length) {
      const c = text.charCodeAt(this.at);
      if (c === 0x20 || c === 0x09 || c === 0x0d) this.at++;
      else if (c === 0x0a) {
        this.at++;
        this.line++;
        this.lineStart = this.base + this.at;
      } else if (c === 0xfeff && this.base + this.at === 0) this.at++;
      else if (c === RECORD_SEPARATOR && this.isBetweenRoots()) this.at++;
      else if (!this.token(c)) return;
    }
  }

  /** One token; false where it does not end in this piece. */
  private token(c: number): boolean {
    const offset = this.base + this.at;
    switch (c) {
      case 0x7b: // {
      case 0x5b: // [
        this.needValue();
        if (this.stack.length >= MAX_DEPTH) this.failAt(this.at, `at most ${MAX_DEPTH} nested brackets`);
        this.at++;
        if (c === 0x7b) {
          this.stack.push('{');
          this.expect = Expect.KeyOrEnd;
          this.handler.startObject?.(offset);
        } else {
          this.stack.push('[');
          this.expect = Expect.ValueOrEnd;
          this.handler.startArray?.(offset);
        }
        return true;
      case 0x7d: // }
        if (this.top() !== '{' || (this.expect !== Expect.KeyOrEnd && this.expect !== Expect.CommaOrEnd)) this.unexpected();
        this.at++;
        this.stack.pop();
        this.afterValue();
        this.handler.endObject?.(offset + 1);
        return true;
      case 0x5d: // ]
        if (this.top() !== '[' || (this.expect !== Expect.ValueOrEnd && this.expect !== Expect.CommaOrEnd)) this.unexpected();
        this.at++;
        this.stack.pop();
        this.afterValue();
        this.handler.endArray?.(offset + 1);
        return true;
      case 0x2c: // ,
        if (this.expect !== Expect.CommaOrEnd) this.unexpected();
        this.at++;
        this.expect = this.top() === '{' ? Expect.Key : Expect.Value;
        return true;
      case 0x3a: // :
        if (this.expect !== Expect.Colon) this.unexpected();
        this.at++;
        this.expect = Expect.Value;
        return true;
      case 0x22: // "
        return this.stringToken(offset);
      default:
        return this.scalar(c, offset);
    }
  }

  private top(): '{' | '[' | undefined {
    return this.stack[this.stack.length - 1];
  }
  private unexpected(): never {
    this.failAt(this.at, EXPECTED[this.expect]!);
  }
  private needValue(): void {
    if (this.expect !== Expect.Value && this.expect !== Expect.ValueOrEnd) this.unexpected();
  }
  private afterValue(): void {
    this.expect = this.stack.length ? Expect.CommaOrEnd : this.roots === 'many' ? Expect.Value : Expect.Nothing;
  }
  private isBetweenRoots(): boolean {
    return this.roots === 'many' && this.stack.length === 0 && this.expect === Expect.Value;
  }

  private stringToken(offset: number): boolean {
    const isKey = this.expect === Expect.Key || this.expect === Expect.KeyOrEnd;
    if (!isKey) this.needValue();
    const text = this.text;
    let end = this.at + Math.max(1, this.looked);
    let escaped = this.lookedEscaped;
    this.looked = 0;
    this.lookedEscaped = false;
    for (let start = end; ; start = ++end) {
      if (end >= text.length) {
        if (this.final) this.failAt(end, 'the closing quote');
        this.looked = start - this.at;
        this.lookedEscaped = escaped;
        return false;
      }
      const c = text.charCodeAt(end);
      if (c === 0x22) break;
      if (c === 0x5c) {
        escaped = true;
        if (++end >= text.length && !this.final) {
          this.looked = start - this.at; // what is escaped comes with the next piece
          this.lookedEscaped = true;
          return false;
        }
      } else if (c < 0x20) this.failAt(end, 'the closing quote before the end of the line');
    }
    const value = escaped ? this.unescape(this.at + 1, end) : text.slice(this.at + 1, end);
    this.at = end + 1;
    if (isKey) {
      this.expect = Expect.Colon;
      this.handler.key?.(value, offset);
    } else {
      this.afterValue();
      this.handler.string?.(value, offset, this.base + this.at);
    }
    return true;
  }

  private unescape(from: number, to: number): string {
    let out = '';
    for (let i = from; i < to; i++) {
      const ch = this.text[i]!;
      if (ch !== '\\') {
        out += ch;
        continue;
      }
      const next = this.text[++i]!;
      const plain = '"\\/'.includes(next) ? next : { b: '\b', f: '\f', n: '\n', r: '\r', t: '\t' }[next];
      if (plain !== undefined) out += plain;
      else if (next === 'u' && /^[0-9A-Fa-f]{4}$/.test(this.text.slice(i + 1, Math.min(i + 5, to)))) {
        out += String.fromCharCode(parseInt(this.text.slice(i + 1, i + 5), 16));
        i += 4;
      } else this.failAt(i, 'a JSON escape');
    }
    return out;
  }

  private scalar(c: number, offset: number): boolean {
    this.needValue();
    if (c === 0x2d || (c >= 0x30 && c <= 0x39)) return this.numberToken(offset);
    for (const [word, value] of [
      ['true', true],
      ['false', false],
      ['null', null],
    ] as const) {
      if (word.charCodeAt(0) !== c) continue;
      const got = this.text.slice(this.at, this.at + word.length);
      if (got !== word) {
        if (!this.final && word.startsWith(got)) return false;
        this.unexpected();
      }
      this.at += word.length;
      this.afterValue();
      this.handler.literal?.(value, offset, offset + word.length);
      return true;
    }
    this.unexpected();
  }

  private numberToken(offset: number): boolean {
    NUMBER_CHARACTERS.lastIndex = this.at;
    NUMBER_CHARACTERS.test(this.text);
    const end = NUMBER_CHARACTERS.lastIndex;
    if (end === this.text.length && !this.final) return false;
    NUMBER.lastIndex = this.at;
    if (!NUMBER.test(this.text) || NUMBER.lastIndex !== end) this.failAt(this.at, 'a number');
    const value = Number(this.text.slice(this.at, end));
    this.at = end;
    this.afterValue();
    this.handler.number?.(value, offset, this.base + end);
    return true;
  }
}
