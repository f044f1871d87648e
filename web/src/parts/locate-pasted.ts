import type { PathRequest, PlaceView } from '@rootmap/core/contract';

/** A path as it was copied somewhere, real or with a drive name, inside the place that it belongs to. Null: no place has it. */
export function locatePasted(text: string, places: readonly PlaceView[]): PathRequest | null {
  const path = text.trim().replaceAll('\\', '/').replace(/\/+$/, '');
  let best: { at: PathRequest; length: number } | null = null;
  for (const place of places)
    for (const prefix of [place.folder, ...place.driveNames.map((d) => d.replaceAll('\\', '/'))]) {
      const fits = path.toLowerCase() === prefix.toLowerCase() || path.toLowerCase().startsWith(`${prefix.toLowerCase()}/`);
      if (fits && (!best || prefix.length > best.length))
        best = { at: { place: place.name, path: path.slice(prefix.length + 1) }, length: prefix.length };
    }
  return best && best.at;
}
