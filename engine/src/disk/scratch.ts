import fs from 'node:fs';
import { tmpdir } from 'node:os';
import { join, fromNative } from './native-path.js';

let folder = fromNative(tmpdir());

/** Where a process keeps what it unpacks or copies for a moment; whoever started it removes the folder when it has ended. */
export function setScratch(to: string): void {
  fs.mkdirSync(to, { recursive: true });
  folder = to;
}
export const scratch = (): string => folder;

/** A new folder for one piece of work, which removes it. */
export const newScratch = (name: string): string => fromNative(fs.mkdtempSync(join(folder, `rootmap-${name}-`)));
