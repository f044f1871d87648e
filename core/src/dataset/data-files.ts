import { formatOf, isMapFile, isOrphan, isProjectFile, isUnclearJson } from './formats.js';

/**
 * Which files of a folder can be part of a dataset, a map or a project, told by their names: main files, and whatever has
 * a main file's stem. The others need no closer look.
 */
export function dataFiles(names: readonly string[]): ReadonlySet<string> {
  const stems = new Set<string>();
  const found = new Set<string>();
  const others: string[] = [];
  for (const name of names) {
    if (formatOf(name) !== null || isUnclearJson(name)) {
      found.add(name);
      stems.add(name.slice(0, name.lastIndexOf('.')).toLowerCase());
    } else if (isMapFile(name) || isProjectFile(name) || isOrphan(name)) found.add(name);
    else others.push(name);
  }
  if (stems.size > 0) for (const name of others) if (hasStem(name.toLowerCase(), stems)) found.add(name);
  return found;
}

function hasStem(name: string, stems: ReadonlySet<string>): boolean {
  for (let at = name.lastIndexOf('.'); at > 0; at = name.lastIndexOf('.', at - 1)) if (stems.has(name.slice(0, at))) return true;
  return false;
}
