import type { DraftLayer, IdentifiedLayer, ShownValue } from '@rootmap/core/contract';
import type { NamedValue } from './values.js';

/** One thing that stands at a point of the map. */
export type Hit =
  | { readonly kind: 'record'; readonly key: string; readonly layer: string; readonly record: number; readonly words: string }
  | {
      readonly kind: 'values';
      readonly key: string;
      readonly layer: string;
      readonly words: string;
      readonly values: readonly NamedValue[];
    };

interface LayerHits {
  readonly layer: DraftLayer;
  readonly hits: readonly Hit[];
  /** Records that are near and not listed. */
  readonly more: number;
  readonly problem: string | null;
}

type OfServices = readonly { readonly layer: string; readonly values: Readonly<Record<string, unknown>> }[];

/** What was found, layer by layer from the top of the map; layers where nothing stands are left out. */
export function hitsOf(layers: readonly DraftLayer[], found: readonly IdentifiedLayer[], ofServices: OfServices): LayerHits[] {
  return layers.flatMap((layer) => {
    const { id } = layer;
    const ours = found.find((f) => f.id === id);
    const hits = [
      ...(ours ? ownHits(ours) : []),
      ...ofServices.filter((s) => s.layer === id).map((s, i): Hit => ({ ...fromServer(s.values, i), key: `${id} s${i}`, layer: id })),
    ];
    const problem = ours?.problem ?? null;
    return hits.length === 0 && problem === null ? [] : [{ layer, hits, more: ours?.more ?? 0, problem }];
  });
}

function ownHits({ id, shapes, bands, colour }: IdentifiedLayer): Hit[] {
  const records = shapes.map(({ record, kind }): Hit => ({
    kind: 'record',
    key: `${id} ${record}`,
    layer: id,
    record,
    words: `${kind}, record ${record}`,
  }));
  if (bands === null) return records;
  const values = [
    ...bands.map((value, i) => ({ name: bands.length === 1 ? 'value' : `band ${i + 1}`, value: value === null ? null : pixelText(value) })),
    ...(colour === null ? [] : [{ name: 'colour', value: colour }]),
  ];
  const words =
    bands.length === 1 ? (bands[0] === null ? 'no value here' : `value ${pixelText(bands[0]!)}`) : `pixel of ${bands.length || 'no'} bands`;
  return [...records, { kind: 'values', key: `${id} pixel`, layer: id, words, values }];
}

function fromServer(values: Readonly<Record<string, unknown>>, i: number): Omit<Extract<Hit, { kind: 'values' }>, 'key' | 'layer'> {
  const named = Object.entries(values).map(([name, value]) => ({ name, value: wordsOf(value) }));
  return { kind: 'values', words: `record ${i + 1} of the server’s answer`, values: named };
}

const wordsOf = (value: unknown): string | null =>
  value === null || value === undefined ? null : typeof value === 'string' ? value : JSON.stringify(value);

export const shownText = (value: ShownValue): string | null =>
  value === null ? null : typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value);

/** A number of a pixel in as few digits as tell it from its neighbours: 10.2 of 32 bits is not 10.199999809265137. */
export function pixelText(value: number): string {
  if (Math.fround(value) !== value) return String(value);
  for (let digits = 1; digits < 9; digits++) {
    const short = Number(value.toPrecision(digits));
    if (Math.fround(short) === value) return String(short);
  }
  return String(Number(value.toPrecision(9)));
}
