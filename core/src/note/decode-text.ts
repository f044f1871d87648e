import { encodingOf } from '../bytes/guess-encoding.js';
import { encodingLabelled } from '../format/shapefile/encoding.js';

/** Plain text that says nothing of its encoding; what is guessed wrong shows other letters. */
export function decodeText(bytes: Uint8Array): string {
  const { encoding } = encodingOf(bytes);
  return encodingLabelled(encoding, encoding)
    .decode(bytes)
    .replace(/^\uFEFF/, '');
}
