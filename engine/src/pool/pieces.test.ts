import { expect, test } from '@jest/globals';
import { deserialize, serialize } from 'node:v8';
import fc from 'fast-check';
import { cut, Joined, type Outline, type Piece } from './pieces.js';

/** As it comes through a channel, where nothing is shared with what was sent. */
function carried(value: unknown): { value: unknown; messages: number; most: number } {
  const messages = cut(value).map((m) => deserialize(serialize(m)) as unknown);
  const most = Math.max(...messages.map((m) => serialize(m).length));
  const joined = new Joined(messages[0] as Outline);
  for (const piece of messages.slice(1)) {
    expect(joined.isWhole).toBe(false);
    joined.add(piece as Piece);
  }
  expect(joined.isWhole).toBe(true);
  return { value: joined.value, messages: messages.length, most };
}
const list = (length: number): { n: number }[] => Array.from({ length }, (_, n) => ({ n }));

test('long lists go by the piece, and what was sent is as it was', () => {
  const sent = { kind: 'x', layers: list(50_001), inner: [{ a: list(4001), bytes: new Uint8Array([1, 2]) }, null], map: new Map([[1, 2]]) };
  const before = structuredClone(sent);
  const { value, messages, most } = carried(sent);
  expect(value).toEqual(before);
  expect(sent).toEqual(before);
  expect(messages).toBe(1 + 13 + 2);
  expect(most).toBeLessThan(serialize(before).length / 10);
  expect(carried(list(9000)).value).toEqual(list(9000));
});

test('much data goes by the piece, alone and among others', () => {
  const bytes = Uint8Array.from({ length: 3_000_001 }, (_, i) => (i * 7) % 251);
  const { value, messages, most } = carried(bytes);
  expect(Buffer.compare(value as Uint8Array, bytes)).toBe(0);
  expect(messages).toBe(1 + 6);
  expect(most).toBeLessThan(600_000);
  const among = carried({ png: bytes.subarray(1, 600_000), list: list(4001) }).value as { png: Uint8Array; list: unknown[] };
  expect(Buffer.compare(among.png, bytes.subarray(1, 600_000))).toBe(0);
  expect(among.list).toHaveLength(4001);
});

test('anything else goes as it is', () => {
  fc.assert(
    // By their bytes: as keys of a map no two dates without a value are equal.
    fc.property(fc.anything({ withMap: true, withDate: true }), (v) =>
      expect(serialize(carried(v).value).equals(serialize(deserialize(serialize(v))))).toBe(true),
    ),
  );
  expect(carried(undefined)).toMatchObject({ value: undefined, messages: 1 });
});
