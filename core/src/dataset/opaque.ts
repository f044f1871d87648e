import { formatOf } from './formats.js';

const GENERATED = /^[a-z]?[0-9a-f]{6,}\.[a-z0-9]{2,16}$/;
const FEWEST = 8;

/**
 * Is a folder another program's container? Told by content: many files with generated names (a letter at most, then hex
 * digits), several to a stem, and no main file of a format that is read here. Such a folder is one row: sized, moved and
 * packed whole, never renamed inside.
 */
export function isOpaqueFolder(names: readonly string[]): boolean {
  if (names.length < FEWEST) return false;
  const most = names.length * 0.25;
  const generated: string[] = [];
  let others = 0;
  for (const name of names) {
    if (GENERATED.test(name.toLowerCase())) generated.push(name);
    else if (++others > most) return false;
  }
  const stems = new Set(generated.map((n) => n.slice(0, n.indexOf('.'))));
  return stems.size < generated.length && !names.some((n) => formatOf(n) !== null && formatOf(n) !== 'document');
}
