import type { Format } from '../../dataset/dataset.js';

/** As much of a text as tells what it is. */
export const GEOJSON_HEAD_BYTES = 4096;

const FEATURES = /"type"\s*:\s*"Feature(?:Collection)?"/;
const STARTS = /^\ufeff?[\s\u001e]*\{/;

/**
 * Whether a text whose name tells only that it is JSON holds features (RFC 7946), or one after the other (RFC 8142, or a line each).
 * @param name ends in `.json`, `.ndjson` or `.jsonl`
 * @param head its first bytes
 */
export function geoJsonIn(name: string, head: Uint8Array): Format | null {
  const text = new TextDecoder().decode(head);
  if (!STARTS.test(text) || !FEATURES.test(text)) return null;
  return /\.json$/i.test(name) && !text.trimStart().startsWith('\u001e') ? 'geojson' : 'geojson-sequence';
}
