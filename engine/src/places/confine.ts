import { ProblemError, type Place, partsOf } from '@rootmap/core';
import { asSpelled, realPath } from '../disk/real-path.js';
import { join, isInside } from '../disk/native-path.js';
import { diskProblem, isMissing } from '../disk/disk-problem.js';
import { pathOf, realRoot } from './places.js';

const refuse = (path: string, why: string): never => {
  throw new ProblemError({ code: 'outside-places', path, why });
};

/** Device names of Windows, alone or before a point. A POSIX disk has no such files worth opening by name. */
const DEVICE = /^(con|prn|aux|nul|com[1-9¹²³]|lpt[1-9¹²³]|conin\$|conout\$)(\s*\..*)?$/i;

/**
 * A path below a place, as a request has it, as segments. Refused: traversal in any encoding, absolute and drive paths,
 * backslashes, NUL and control characters, device names.
 */
function checkSegments(path: string): string[] {
  if (path === '') return [];
  const decoded = decodeFully(path);
  if (/^[/\\~]/.test(path) || /^[A-Za-z]:/.test(path) || /^[A-Za-z][A-Za-z0-9+.-]*:\/\//.test(path))
    return refuse(path, 'it does not start at the place');
  if (/[\u0000-\u001f\u007f]/.test(decoded)) return refuse(path, 'it contains a control character');
  if (path.includes('\\')) return refuse(path, 'it contains a backslash');
  const segments = partsOf(path.replace(/\/$/, ''));
  for (const segment of segments) {
    if (segment === '') return refuse(path, 'it has an empty part');
    for (const form of new Set([segment, decodeFully(segment), segment.normalize('NFKC')])) {
      if (form === '.' || form === '..' || /(^|[/\\])\.\.([/\\]|$)/.test(form)) return refuse(path, 'it leads upwards');
      if (DEVICE.test(form)) return refuse(path, 'it names a device');
    }
  }
  return segments;
}

/** Percent-decoding until nothing changes; overlong and broken sequences stay as they are. */
function decodeFully(text: string): string {
  let now = text;
  for (let i = 0; i < 5; i++) {
    const next = now.replace(/%[0-9a-f]{2}/gi, (hex) => String.fromCharCode(parseInt(hex.slice(1), 16)));
    if (next === now) break;
    now = next;
  }
  return now;
}

/**
 * The real path of something inside a place, links followed. `mayBeNew`: its last parts need not be there yet; the deepest
 * folder that is there must still be inside. Throws `outside-places`, `place-absent`, `missing`.
 */
export function confine(place: Place, path: string, mayBeNew = false): string {
  const segments = checkSegments(path);
  if (!place.present) throw new ProblemError({ code: 'place-absent', place: place.name });
  const root = realRoot(place);
  const wanted = join(pathOf(place), ...segments);
  for (let kept = segments.length; ; kept--) {
    const there = join(pathOf(place), ...segments.slice(0, kept));
    try {
      const real = realPath(there);
      if (!isInside(root, real)) return refuse(path, 'a link on the way leads out of its place');
      return join(asSpelled(there), ...segments.slice(kept));
    } catch (error) {
      if (error instanceof ProblemError) throw error;
      if (!isMissing(error) || !mayBeNew || kept === 0) {
        const problem = diskProblem(error, wanted);
        throw problem ? new ProblemError(problem) : error;
      }
    }
  }
}
