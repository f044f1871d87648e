import { encodeFragment, encodeSegment } from './percent.js';

/**
 * The relative URI reference from a *folder* to a target, both as segments below the same place or root.
 * Law: resolving the result from the folder gives the target again.
 * @param sameName how two segments are compared; a place that ignores case passes its own
 * @example relativize(['p', 'map'], ['p', 'data', 'a b.shp'], null) //=> '../data/a%20b.shp'
 */
export function relativize(
  fromFolder: readonly string[],
  to: readonly string[],
  fragment: string | null,
  sameName: (a: string, b: string) => boolean = (a, b) => a === b,
): string {
  let shared = 0; // whole segments: `data/roads` does not contain `data/roads_old`
  // The target's own last segment is never folded away: a file is named, also when a folder has its name.
  const limit = Math.min(fromFolder.length, to.length - 1);
  while (shared < limit && sameName(fromFolder[shared]!, to[shared]!)) shared++;
  const up = Array<string>(fromFolder.length - shared).fill('..');
  const path = [...up, ...to.slice(shared).map(encodeSegment)].join('/') || '.';
  // `a:b.shp` would read as a scheme (RFC 3986 section 4.2); `//x` cannot arise since no segment is empty.
  const safe = /^[^/]*:/.test(path) ? `./${path}` : path;
  return fragment === null ? safe : `${safe}#${encodeFragment(fragment)}`;
}
