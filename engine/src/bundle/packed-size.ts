import { extname } from '../disk/native-path.js';
import type { BundleFile } from './bundle-file.js';

/** Already packed; packing again costs time and gains nothing. */
const PACKED = /\.(zip|gz|tgz|7z|rar|png|jpe?g|jp2|kmz|xlsx|docx|odt|pdf|fgb)$/i;
export const isPacked = (path: string): boolean => PACKED.test(path);

/** What deflate leaves of a kind of file, of one; means over the demo and the open test data. */
const LEFT: Readonly<Record<string, number>> = {
  '.shp': 0.55,
  '.shx': 0.45,
  '.dbf': 0.15,
  '.gpkg': 0.35,
  '.tif': 0.8,
  '.tiff': 0.8,
  '.asc': 0.25,
  '.csv': 0.3,
  '.geojson': 0.25,
  '.json': 0.25,
  '.gpx': 0.2,
  '.kml': 0.2,
};
const OTHERS_LEFT = 0.5;
/** Headers of an entry and its lines in the manifests, beside its name. */
const HEADERS_BYTES = 250;

/** How large a bundle will be: a guess. */
export const packedBytes = (files: readonly BundleFile[]): number =>
  files.reduce(
    (sum, { to, bytes }) =>
      sum + HEADERS_BYTES + 6 * to.length + Math.round(bytes * (isPacked(to) ? 1 : (LEFT[extname(to).toLowerCase()] ?? OTHERS_LEFT))),
    1000,
  );
