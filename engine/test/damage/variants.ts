import { boxOf, type Content } from '../plain-data.js';

// Data that is nearly some other data.

/** One value is another one; every shape is as it was. */
export function withOneEdit(content: Content): Content {
  const [first, ...rest] = content.records;
  return { ...content, records: [{ ...first!, values: first!.values.map((v) => (typeof v === 'number' ? v + 1 : `${v}x`)) }, ...rest] };
}
/** Of another year: the same schema and nearly the same extent; some records moved a little, some are new. */
export function edition(content: Content, random: () => number): Content {
  const box = boxOf(content.records.flatMap((r) => r.at));
  const isEdge = (at: readonly (readonly [number, number])[]): boolean =>
    at.some(([x, y]) => x === box[0] || y === box[1] || x === box[2] || y === box[3]);
  const records = content.records.map((r) =>
    isEdge(r.at) || random() < 0.5 ? r : { ...r, at: r.at.map(([x, y]) => [x + 3, y + 2] as const) },
  );
  const inner = records.find((r) => !isEdge(r.at)) ?? records[0]!;
  return { ...content, records: random() < 0.5 ? [...records, inner] : withOneEdit({ ...content, records }).records };
}
/** Fewer vertices, as many records, nearly the same extent. */
export function generalised(content: Content): Content {
  const box = boxOf(content.records.flatMap((r) => r.at));
  return {
    ...content,
    records: content.records.map((r) => ({
      ...r,
      at: r.at.filter(([x, y], i) => i % 2 === 0 || i >= r.at.length - 3 || x === box[0] || y === box[1] || x === box[2] || y === box[3]),
    })),
  };
}
export const otherTable = (content: Content): Content => ({
  ...content,
  records: content.records.map((r) => ({ ...r, values: r.values.map((v) => (typeof v === 'number' ? v + 7 : `${v}s`)) })),
});
