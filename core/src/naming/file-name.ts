import { ProblemError } from '../problem.js';
import { splitName } from './split-name.js';

/** NAME_MAX of Linux' file systems, in bytes of UTF-8 (checked with 255 and 256 on ext4); other systems count UTF-16 and take no more. */
const MOST_BYTES = 255;

/**
 * The file name of a stem and an ending, which has its dot. The only way from a stem to a name: `..` and `/` would lead elsewhere, and
 * too long a name stands nowhere. Throws `bad-name`.
 */
export function fileName(stem: string, ending: string): string {
  const name = stem + ending;
  const refuse = (why: string): never => {
    throw new ProblemError({ code: 'bad-name', name, why });
  };
  if (/^\.*$/.test(stem)) refuse('it has nothing but dots before its ending');
  if (/[/\\\u0000-\u001f]/.test(name)) refuse('it has a character that no file name has');
  if (new TextEncoder().encode(name).length > MOST_BYTES) refuse(`it is longer than the ${MOST_BYTES} bytes that a disk takes`);
  return name;
}

/** The name of a file that stands beside another one and goes with it: its stem, and another ending. */
export const besideName = (name: string, ending: string): string => fileName(splitName(name).stem, ending);
/** The same, where the ending follows the whole name. */
export const behindName = (name: string, ending: string): string => fileName(name, ending);
