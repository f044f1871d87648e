import type { FoundCrs } from '../crs/found-crs.js';

/** Datasets that arrive in one reference, which is not the project's. */
export interface OtherReference {
  readonly crs: string;
  readonly paths: readonly string[];
  /** What is other than in the project; empty: only the CRS is. */
  readonly differs: readonly string[];
}

type Arrived = FoundCrs & { readonly path: string };

/**
 * What arrives in another CRS than the project's, by CRS, the most frequent first, each with what else is other: the datum, the unit.
 * Datasets that tell no CRS are left out: they are told as such beside their names.
 */
export function otherReferences(arrived: readonly Arrived[], own: FoundCrs): OtherReference[] {
  const byCrs = new Map<string, Arrived[]>();
  for (const one of arrived) if (one.crs !== null && one.crs !== own.crs) byCrs.set(one.crs, [...(byCrs.get(one.crs) ?? []), one]);
  return [...byCrs]
    .map(([crs, all]) => ({ crs, paths: all.map((a) => a.path), differs: differences(all[0]!, own) }))
    .sort((a, b) => b.paths.length - a.paths.length);
}

function differences({ datum, unit }: FoundCrs, own: FoundCrs): string[] {
  return [
    ...(datum !== null && own.datum !== null && datum !== own.datum ? [`another datum, ${datum} instead of ${own.datum}`] : []),
    ...(unit !== null && own.unit !== null && unit !== own.unit ? [`another unit, ${unit} instead of ${own.unit}`] : []),
  ];
}
