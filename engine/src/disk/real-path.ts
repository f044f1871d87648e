import { realpathSync } from 'node:fs';
import { FLAVOUR, fromNative } from './native-path.js';

/**
 * Where a path leads in the end, links followed, as the disk spells it: on Windows also letters in their case, and the drive or
 * share behind a letter that stands for another. Throws as the system does.
 */
export const realPath = (path: string): string => (FLAVOUR === 'win32' ? fromNative(realpathSync.native(path)) : realpathSync(path));
