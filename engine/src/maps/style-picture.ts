import { statSync } from 'node:fs';
import { ProblemError, placeNamed, styleOf, joined } from '@rootmap/core';
import { extname, join } from '../disk/native-path.js';
import { readFileSync } from '../disk/files.js';
import { confine } from '../places/confine.js';
import { readMaps } from '../project/read-maps.js';
import type { RootedScope } from '../project/scope.js';
import { pathOfReference } from '../project/layer-styles.js';

const TYPES: Readonly<Record<string, string>> = {
  '.png': 'image/png',
  '.jpg': 'image/jpeg',
  '.jpeg': 'image/jpeg',
  '.svg': 'image/svg+xml',
  '.gif': 'image/gif',
  '.webp': 'image/webp',
};
const LARGEST_BYTES = 4 << 20;

/** A picture that the style of a layer names, from the folder of the style or of the map. Throws `not-found`. */
export function stylePicture(scope: RootedScope, map: string, layerId: string, href: string): { type: string; bytes: Uint8Array } {
  const path = join(scope.root, map);
  const seen = readMaps({ ...scope, maps: [path], named: path }).maps[0];
  const layer = seen?.file.layers.find((l) => l.id === layerId);
  const style = layer && styleOf(layer);
  const from = seen && style?.kind === 'file' ? pathOfReference(style.href, seen.location, scope)?.location : seen?.location;
  const at = from ? pathOfReference(href, from, scope) : null;
  const type = at && TYPES[extname(at.path).toLowerCase()];
  const stat = at && statSync(at.path, { throwIfNoEntry: false });
  if (!at || !type || !stat?.isFile() || stat.size > LARGEST_BYTES)
    throw new ProblemError({ code: 'not-found', what: 'picture', id: href });
  const place = placeNamed(scope.places, at.location.place)!;
  const real = confine(place, joined(at.location.segments), false);
  return { type, bytes: readFileSync(real) };
}
