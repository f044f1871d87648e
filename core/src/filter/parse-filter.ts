import { createToken, EmbeddedActionsParser, Lexer, type IToken, type TokenType } from 'chevrotain';
import type { CompareOp, Condition, Operand } from './expression.js';

/** A condition, or a sentence that says where the text stops being one; `at` is an offset in the text. */
export type ParsedFilter =
  { readonly ok: true; readonly condition: Condition } | { readonly ok: false; readonly at: number; readonly why: string };

const Space = createToken({ name: 'Space', pattern: /\s+/, group: Lexer.SKIPPED });
const Text = createToken({ name: 'Text', pattern: /'(?:[^']|'')*'/, label: 'text in single quotes' });
const Quoted = createToken({ name: 'Quoted', pattern: /"(?:[^"]|"")+"/, label: 'a field in double quotes' });
const Num = createToken({ name: 'Num', pattern: /(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?/, label: 'a number' });
/** OGC 21-065r2, 7.4.2: instants; dates and times are held as text in that form, which compares as they do. */
const Instant = createToken({ name: 'Instant', pattern: /(?:date|timestamp)\s*\(\s*'[^']*'\s*\)/i, label: 'a date' });
const INSTANT = /^\d{4}-\d\d-\d\d(?:T\d\d:\d\d:\d\d(?:\.\d+)?Z)?$/;
/** Letters beyond ASCII as ranges: the lexer takes no Unicode properties. */
const Name = createToken({ name: 'Name', pattern: /[A-Za-z_\u00C0-\uFFFF][A-Za-z0-9_\u00C0-\uFFFF]*/, label: 'a field' });
const word = (name: string): TokenType =>
  createToken({ name, pattern: new RegExp(name, 'i'), longer_alt: Name, label: name.toUpperCase() });
const [And, Or, Not, In, Like, ILike, Is, Null, Between, True, False] = 'and or not in like ilike is null between true false'
  .split(' ')
  .map(word) as [TokenType, TokenType, TokenType, TokenType, TokenType, TokenType, TokenType, TokenType, TokenType, TokenType, TokenType];
const Compare = createToken({ name: 'Compare', pattern: /<=|>=|<>|!=|=|<|>/, label: 'a comparison' });
const Sum = createToken({ name: 'Sum', pattern: /[+-]/, label: '+ or -' });
const Product = createToken({ name: 'Product', pattern: /[*/]/, label: '* or /' });
const Open = createToken({ name: 'Open', pattern: /\(/, label: '(' });
const Close = createToken({ name: 'Close', pattern: /\)/, label: ')' });
const Comma = createToken({ name: 'Comma', pattern: /,/, label: 'a comma' });
const WORDS = [And, Or, Not, In, ILike, Like, Is, Null, Between, True, False];
export const TOKENS = [Space, Text, Quoted, Num, Instant, ...WORDS, Name, Compare, Sum, Product, Open, Close, Comma];
/** What is wrong with the grammar itself is looked for by a test, and not whenever it is used: that takes longer than most filters. */
const UNCHECKED = { skipValidations: true };
const lexer = new Lexer(TOKENS, { positionTracking: 'onlyOffset', ...UNCHECKED });

const fold = (op: 'and' | 'or', parts: readonly Condition[]): Condition => (parts.length === 1 ? parts[0]! : { op, parts });
const unquote = (image: string, mark: string): string => image.slice(1, -1).replaceAll(mark + mark, mark);

/** OGC CQL2 text (OGC 21-065r2), its basic comparisons, LIKE, BETWEEN, IN, IS NULL and arithmetic. */
export class FilterParser extends EmbeddedActionsParser {
  /** @param checking what of the grammar is looked at */
  constructor(checking: { readonly skipValidations?: boolean } = {}) {
    super(TOKENS, { maxLookahead: 1, ...checking });
    this.performSelfAnalysis();
  }
  readonly filter = this.RULE('filter', (): Condition => this.SUBRULE(this.either));
  private readonly either = this.RULE('either', (): Condition => {
    const parts: Condition[] = [this.SUBRULE(this.all)];
    this.MANY(() => {
      this.CONSUME(Or);
      parts.push(this.SUBRULE2(this.all));
    });
    return this.ACTION(() => fold('or', parts));
  });
  private readonly all = this.RULE('all', (): Condition => {
    const parts: Condition[] = [this.SUBRULE(this.negated)];
    this.MANY(() => {
      this.CONSUME(And);
      parts.push(this.SUBRULE2(this.negated));
    });
    return this.ACTION(() => fold('and', parts));
  });
  private readonly negated = this.RULE('negated', (): Condition => {
    const isNot = this.OPTION(() => this.CONSUME(Not)) !== undefined;
    const part = this.SUBRULE(this.single);
    return this.ACTION((): Condition => (isNot ? { op: 'not', part } : part));
  });
  /** A bracket may hold a condition or a sum: what stands behind the closing one tells. */
  private readonly single = this.RULE('single', (): Condition =>
    this.OR({
      DEF: [
        {
          GATE: () => this.isCondition(),
          ALT: () => {
            this.CONSUME(Open);
            const inner = this.SUBRULE(this.either);
            this.CONSUME(Close);
            return inner;
          },
        },
        { ALT: () => this.SUBRULE(this.comparison) },
      ],
      // The gate decides; telling the two apart by more words takes longer than all else of the grammar.
      MAX_LOOKAHEAD: 1,
      IGNORE_AMBIGUITIES: true,
    }),
  );
  private isCondition(): boolean {
    if (this.LA(1).tokenType !== Open) return false;
    let depth = 0;
    for (let i = 1; ; i++) {
      const { tokenType } = this.LA(i);
      if (tokenType === Open) depth++;
      else if (tokenType === Close && --depth === 0) {
        const next = this.LA(i + 1).tokenType;
        return (
          ![Compare, Sum, Product, In, Like, ILike, Is, Between].includes(next) && !(next === Not && this.LA(i + 2).tokenType !== Open)
        );
      } else if (tokenType.name === 'EOF') return true;
    }
  }
  private readonly comparison = this.RULE('comparison', (): Condition => {
    const value = this.SUBRULE(this.sum);
    return this.OR([
      {
        ALT: () => {
          const op = this.CONSUME(Compare).image;
          const right = this.SUBRULE2(this.sum);
          return this.ACTION((): Condition => ({ op: (op === '!=' ? '<>' : op) as CompareOp, left: value, right }));
        },
      },
      {
        ALT: () => {
          this.CONSUME(Is);
          const isNot = this.OPTION(() => this.CONSUME(Not)) !== undefined;
          this.CONSUME(Null);
          return this.ACTION((): Condition => (isNot ? { op: 'not', part: { op: 'null', value } } : { op: 'null', value }));
        },
      },
      {
        ALT: () => {
          const isNot = this.OPTION2(() => this.CONSUME2(Not)) !== undefined;
          const part = this.SUBRULE(this.membership, { ARGS: [value] });
          return this.ACTION((): Condition => (isNot ? { op: 'not', part } : part));
        },
      },
    ]);
  });
  private readonly membership = this.RULE('membership', (value: Operand): Condition =>
    this.OR([
      {
        ALT: () => {
          const list: Operand[] = [];
          this.CONSUME(In);
          this.CONSUME(Open);
          this.AT_LEAST_ONE_SEP({ SEP: Comma, DEF: () => list.push(this.SUBRULE(this.sum)) });
          this.CONSUME(Close);
          return this.ACTION((): Condition => ({ op: 'in', value, list }));
        },
      },
      {
        ALT: () => {
          const ignoresCase = this.OR2([{ ALT: () => (this.CONSUME(Like), false) }, { ALT: () => (this.CONSUME(ILike), true) }]);
          const pattern = this.CONSUME(Text).image;
          return this.ACTION((): Condition => ({ op: 'like', value, pattern: unquote(pattern, "'"), ignoresCase }));
        },
      },
      {
        ALT: () => {
          this.CONSUME(Between);
          const low = this.SUBRULE2(this.sum);
          this.CONSUME(And);
          const high = this.SUBRULE3(this.sum);
          return this.ACTION((): Condition => ({ op: 'between', value, low, high }));
        },
      },
    ]),
  );
  private readonly sum = this.RULE('sum', (): Operand => {
    let left = this.SUBRULE(this.product);
    this.MANY(() => {
      const op = this.CONSUME(Sum).image as '+' | '-';
      const right = this.SUBRULE2(this.product);
      left = { op, left, right };
    });
    return left;
  });
  private readonly product = this.RULE('product', (): Operand => {
    let left = this.SUBRULE(this.atom);
    this.MANY(() => {
      const op = this.CONSUME(Product).image as '*' | '/';
      const right = this.SUBRULE2(this.atom);
      left = { op, left, right };
    });
    return left;
  });
  private readonly atom = this.RULE('atom', (): Operand =>
    this.OR([
      { ALT: (): Operand => ({ literal: unquote(this.CONSUME(Text).image, "'") }) },
      { ALT: (): Operand => ({ field: unquote(this.CONSUME(Quoted).image, '"') }) },
      { ALT: (): Operand => ({ literal: instantOf(this.CONSUME(Instant).image) }) },
      { ALT: (): Operand => ({ field: this.CONSUME(Name).image }) },
      { ALT: (): Operand => ({ literal: Number(this.CONSUME(Num).image) }) },
      { ALT: (): Operand => (this.CONSUME(True), { literal: true }) },
      { ALT: (): Operand => (this.CONSUME(False), { literal: false }) },
      {
        ALT: (): Operand => {
          const sign = this.CONSUME(Sum).image as '+' | '-';
          const right = this.SUBRULE(this.atom);
          return this.ACTION((): Operand =>
            sign === '+'
              ? right
              : 'literal' in right && typeof right.literal === 'number'
                ? { literal: -right.literal }
                : { op: '-', left: { literal: 0 }, right },
          );
        },
      },
      {
        ALT: (): Operand => {
          this.CONSUME(Open);
          const inner = this.SUBRULE(this.sum);
          this.CONSUME(Close);
          return inner;
        },
      },
    ]),
  );
}

const instantOf = (image: string): string => /'([^']*)'/.exec(image)?.[1] ?? '';

let parser: FilterParser | null = null;

/** Parses a filter. Never throws. */
export function parseFilter(text: string): ParsedFilter {
  const { tokens, errors } = lexer.tokenize(text);
  if (errors[0])
    return { ok: false, at: errors[0].offset, why: `"${text.slice(errors[0].offset, errors[0].offset + 10)}" has no meaning here` };
  const odd = tokens.find((t) => t.tokenType === Instant && !INSTANT.test(instantOf(t.image)));
  if (odd)
    return {
      ok: false,
      at: odd.startOffset,
      why: `${odd.image} is no date as DATE('2025-12-31'), and no instant as TIMESTAMP('2025-12-31T08:00:00Z')`,
    };
  const deep = tooDeep(tokens);
  if (deep) return { ok: false, at: deep.startOffset, why: `it is nested more than ${MOST_DEPTH} deep` };
  parser ??= new FilterParser(UNCHECKED);
  parser.input = tokens;
  const condition = parser.filter();
  const [error] = parser.errors;
  if (!error) return { ok: true, condition };
  return { ok: false, at: offsetOf(error.token, text), why: wordsOf(error.token, tokens) };
}

/** Deeper than anybody writes; the parser calls itself at each bracket and each sign. */
const MOST_DEPTH = 100;

function tooDeep(tokens: readonly IToken[]): IToken | undefined {
  let brackets = 0;
  let signs = 0;
  return tokens.find(({ tokenType }) => {
    signs = tokenType === Sum ? signs + 1 : 0;
    if (tokenType === Open) brackets++;
    if (tokenType === Close) brackets--;
    return brackets > MOST_DEPTH || signs > MOST_DEPTH;
  });
}

const offsetOf = (token: IToken, text: string): number => (Number.isFinite(token.startOffset) ? token.startOffset : text.length);

function wordsOf(token: IToken, tokens: readonly IToken[]): string {
  if (token.image === '') return tokens.length === 0 ? 'there is no condition' : `something is missing after "${tokens.at(-1)!.image}"`;
  return `"${token.image}" cannot stand here`;
}
