import { crsFacts, type Crs, type CrsFacts, type FoundCrs } from '@rootmap/core';
import { definitionOf } from './definitions.js';

const known = new Map<string, CrsFacts | null>();

/** Datum, unit and the rest of a CRS, from the text of the file, or of the registry where the file has a number only. Null: not told. */
export function factsOf({ code, wkt }: Crs): CrsFacts | null {
  const text = (code && definitionOf(code)?.wkt) ?? wkt;
  if (!text) return null;
  let facts = known.get(text); // many datasets have one CRS
  if (facts === undefined) known.set(text, (facts = crsFacts(text)));
  return facts;
}

/** A dataset's CRS, for what is stated to be held against. */
export function foundCrs(crs: Crs | null): FoundCrs {
  const facts = crs && factsOf(crs);
  return { crs: crs?.code ?? crs?.name ?? null, datum: facts?.datum ?? null, unit: facts?.unit ?? null };
}
