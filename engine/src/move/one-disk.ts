import { existsSync, lstatSync, statSync } from 'node:fs';
import { dirname } from '../disk/native-path.js';

/** The folder that a path is or will be in, or the deepest one above it that is there. */
export function nearestFolder(path: string): string {
  let folder = dirname(path);
  while (!existsSync(folder)) folder = dirname(folder);
  return folder;
}

/** A rename reaches the target; else it has to be copied. */
export const isOneDisk = (from: string, to: string): boolean => lstatSync(from).dev === statSync(nearestFolder(to)).dev;
