import { done, fail, type Result } from '../problem.js';
import { JsonError, JsonStream } from './json-stream.js';

/** A JSON value that knows where it stands in the text: `start` and `end` are UTF-16 offsets, end exclusive. */
export type JsonNode = { readonly start: number; end: number } & (
  | { readonly kind: 'object'; readonly members: { key: string; keyStart: number; value: JsonNode }[] }
  | { readonly kind: 'array'; readonly items: JsonNode[] }
  | { readonly kind: 'scalar'; readonly value: string | number | boolean | null }
);

/** A map of 50,000 layers has fewer; each takes about 150 bytes of memory. */
const MOST_VALUES = 1_500_000;
class TooMany extends Error {}

/** Parses a whole text. `file` is for the sentence when it fails, which names line and column. */
export function parseJsonTree(file: string, text: string): Result<JsonNode> {
  const stack: JsonNode[] = [];
  const keys: { name: string; start: number }[] = [];
  let root: JsonNode | undefined;
  let values = 0;
  const add = (node: JsonNode): void => {
    if (++values > MOST_VALUES) throw new TooMany();
    const parent = stack[stack.length - 1];
    if (!parent) root = node;
    else if (parent.kind === 'array') parent.items.push(node);
    else if (parent.kind === 'object') {
      const key = keys.pop()!;
      parent.members.push({ key: key.name, keyStart: key.start, value: node });
    }
  };
  const open = (node: JsonNode): void => {
    add(node);
    stack.push(node);
  };
  const close = (end: number): void => {
    stack.pop()!.end = end;
  };
  const scalar = (value: string | number | boolean | null, start: number, end: number): void => add({ kind: 'scalar', value, start, end });
  const stream = new JsonStream({
    startObject: (start) => open({ kind: 'object', start, end: start, members: [] }),
    startArray: (start) => open({ kind: 'array', start, end: start, items: [] }),
    endObject: close,
    endArray: close,
    key: (name, start) => keys.push({ name, start }),
    string: scalar,
    number: scalar,
    literal: scalar,
  });
  try {
    stream.write(text);
    stream.end();
  } catch (error) {
    if (error instanceof TooMany) return fail({ code: 'too-many-values', file, limit: MOST_VALUES });
    if (!(error instanceof JsonError)) throw error;
    return fail({ code: 'bad-json', file, line: error.line, column: error.column, expected: error.expected });
  }
  return done(root!);
}

/** The member's value; where a name stands twice, the last one counts, as in `JSON.parse`. */
export function member(node: JsonNode | undefined, key: string): JsonNode | undefined {
  if (node?.kind !== 'object') return undefined;
  for (let i = node.members.length - 1; i >= 0; i--) if (node.members[i]!.key === key) return node.members[i]!.value;
  return undefined;
}

export const items = (node: JsonNode | undefined): readonly JsonNode[] => (node?.kind === 'array' ? node.items : []);

export function textOf(node: JsonNode | undefined): string | undefined {
  return node?.kind === 'scalar' && typeof node.value === 'string' ? node.value : undefined;
}

/** The plain value of a node. `__proto__` is a member like any other. */
export function toValue(node: JsonNode): unknown {
  if (node.kind === 'scalar') return node.value;
  if (node.kind === 'array') return node.items.map(toValue);
  return Object.fromEntries(node.members.map((m) => [m.key, toValue(m.value)]));
}
