import { lengthPrefix, type NewHasher } from '../bytes/byte-source.js';
import { ForwardReader } from '../bytes/forward-reader.js';
import type { FileGroup } from '../dataset/dataset.js';
import { parseAuxXml } from './georeference.js';
import { auxXmlOf, sideText, worldFileOf, type Open } from './side-files.js';

/** Hash over the main file, its world file and the georeferencing of its `.aux.xml`, each behind its length. */
export function hashRaster(group: FileGroup, open: Open, newHasher: NewHasher): string {
  const hasher = newHasher();
  const source = open(group.path);
  hasher.update(lengthPrefix(source.sizeBytes));
  ForwardReader.hashing(source, hasher).drain();
  const world = worldFileOf(group);
  const aux = auxXmlOf(group);
  const texts = [world && sideText(world, open).trim(), aux && parseAuxXml(sideText(aux, open)).georeferenceText.trim()];
  const encoder = new TextEncoder();
  for (const text of texts) {
    if (!text) continue;
    const bytes = encoder.encode(text);
    hasher.update(lengthPrefix(bytes.length));
    hasher.update(bytes);
  }
  return `sha256:${hasher.digest()}`;
}
