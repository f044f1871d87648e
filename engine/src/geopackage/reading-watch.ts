import { statSync } from 'node:fs';

/*
 * What a geodatabase holds is also a program: triggers, expressions in indexes and checks. SQLite runs it without giving way, so
 * whoever runs this process is told which file is being read, and can end the process where it takes too long. That file is then
 * left alone until it changes.
 */

type Tell = (path: string | null) => void;
let tell: Tell = () => undefined;
const open: string[] = [];
let shunned: ReadonlyMap<string, string> = new Map();

/** `onChange` gets the file that is being read, or null. */
export function watchReading(onChange: Tell): void {
  tell = onChange;
}

/** Files that kept their reader busy, by path, with the state that they had then. */
export const shun = (files: ReadonlyMap<string, string>): void => void (shunned = files);

/** A file's state: another one is worth another look. */
export function stateOf(path: string): string {
  const stat = statSync(path, { throwIfNoEntry: false });
  return stat ? `${stat.ino}:${stat.size}:${stat.mtimeMs}` : '';
}

export const isShunned = (path: string): boolean => shunned.has(path) && shunned.get(path) === stateOf(path);

/** Gives what ends the reading. */
export function beginReading(path: string): () => void {
  open.push(path);
  tell(path);
  return () => {
    const at = open.lastIndexOf(path);
    if (at < 0) return;
    open.splice(at, 1);
    tell(open.at(-1) ?? null);
  };
}
