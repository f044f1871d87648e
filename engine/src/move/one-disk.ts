import { existsSync, lstatSync, statSync } from 'node:fs';
import { dirname, toAddress } from '../disk/native-path.js';

/** The folder that a path is or will be in, or the deepest one above it that is there. */
export function nearestFolder(path: string): string {
  let folder = dirname(path);
  while (!existsSync(folder)) folder = dirname(folder);
  return folder;
}

/** A rename reaches the target; else it has to be copied. */
export const isOneDisk = (from: string, to: string): boolean =>
  rootOf(from) === rootOf(to) && lstatSync(from).dev === statSync(nearestFolder(to)).dev;

/** Volumes without a serial number have one device in Node's eyes, so letters are told apart, too. */
const rootOf = (path: string): string => toAddress(path).root;
