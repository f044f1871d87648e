import type { MendChoice, MendLayerView } from '@rootmap/core/contract';

/** The best candidate of each, with the address that it takes the place of, so that a map that was edited meanwhile is told. */
export const bestOf = (layers: readonly MendLayerView[]): MendChoice[] =>
  layers.map((l) => ({ key: l.key, path: l.candidates[0]!.path, before: l.before.href }));
