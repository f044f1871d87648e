import { folderOf, nameOf } from '../address/parts.js';
import { foldName } from '../address/address.js';
import { byCodePoint } from '../code-point-order.js';
import { WINDOWS_PATH_LIMIT } from './portable-name.js';
import { proposeName } from './propose.js';
import { breachesOf, type NamingRules } from './rules.js';
import { splitName } from './split-name.js';

/** One name that can be given anew: a folder, or the main file of a dataset, a map or a document. */
export interface NamedThing {
  /** From the root, `/` as separator. */
  readonly path: string;
  readonly isFolder: boolean;
  /** Longest path of a file that goes by it, in UTF-16 code units from the root. */
  readonly longest: number;
}

interface NameFinding {
  readonly path: string;
  readonly rule: string;
  readonly message: string;
  /** The last part of the path, as it would be. Null: no name can mend it (the path is too long). */
  readonly proposed: string | null;
}

interface NameRename {
  readonly from: string;
  /** Path with the new last part and the folders above as they are now. */
  readonly to: string;
}

export interface NameCheck {
  readonly findings: readonly NameFinding[];
  readonly renames: readonly NameRename[];
}

/** Folders at the top that a numbered plan made: `01_received`. */
const NUMBERED = /^[0-9]{1,2}_/;

/**
 * Checks all names of a project against its rules and proposes new ones, unique in their folder on every system.
 * @param taken everything that stands in a folder, by folder, also what is not to be renamed
 * @param rootLength length of the longest address of the root on the target systems
 * @param planFolders folders of the project's plan: numbered ones at the top may begin with a digit
 */
export function checkNames(
  things: readonly NamedThing[],
  taken: ReadonlyMap<string, readonly string[]>,
  naming: NamingRules,
  rootLength: number,
  planFolders: ReadonlySet<string>,
): NameCheck {
  const findings: NameFinding[] = [];
  const renames: NameRename[] = [];
  const stems = stemsByFolder(taken);
  const firsts = firstNames(taken);
  for (const thing of [...things].sort((a, b) => byCodePoint(a.path, b.path))) {
    const name = nameOf(thing.path);
    const folder = folderOf(thing.path);
    const { stem, ending } = thing.isFolder ? { stem: name, ending: '' } : splitName(name);
    const isNumbered = thing.isFolder && folder === '' && NUMBERED.test(name) && planFolders.has(thing.path);
    const breaches = [...breachesOf(stem, naming, isNumbered), ...collision(name, firsts.get(folder)?.get(foldName(name)))];
    if (rootLength + 1 + thing.longest + 1 > WINDOWS_PATH_LIMIT)
      findings.push({
        path: thing.path,
        rule: 'path-length',
        message: `its longest path would have ${rootLength + 1 + thing.longest} characters on the target, more than the ${WINDOWS_PATH_LIMIT - 1} that Windows programs take`,
        proposed: null,
      });
    if (breaches.length === 0) continue;
    const others = stems.get(folder)!;
    const isTaken = (lower: string): boolean => lower !== stem.toLowerCase() && others.has(lower);
    const differsInCase = breaches.some((b) => b.rule === 'case-collision');
    const proposed = proposeName(stem, naming, differsInCase ? (lower) => others.has(lower) : isTaken, isNumbered) + ending;
    others.add(proposed.slice(0, proposed.length - ending.length).toLowerCase());
    for (const b of breaches) findings.push({ path: thing.path, rule: b.rule, message: b.message, proposed });
    renames.push({ from: thing.path, to: folder === '' ? proposed : `${folder}/${proposed}` });
  }
  return { findings, renames };
}

/** Stems in lower case: files of one dataset share theirs, so that no two datasets may come to have the same. */
function stemsByFolder(taken: ReadonlyMap<string, readonly string[]>): Map<string, Set<string>> {
  return new Map([...taken].map(([folder, names]) => [folder, new Set(names.map((n) => splitName(n).stem.toLowerCase()))]));
}

/** The first name of each that are one where case does not count, by folder. */
function firstNames(taken: ReadonlyMap<string, readonly string[]>): Map<string, Map<string, string>> {
  const firsts = new Map<string, Map<string, string>>();
  for (const [folder, names] of taken) {
    const own = new Map<string, string>();
    for (const name of names) {
      const first = own.get(foldName(name));
      if (first === undefined || byCodePoint(name, first) < 0) own.set(foldName(name), name);
    }
    firsts.set(folder, own);
  }
  return firsts;
}

function collision(name: string, first: string | undefined): { rule: string; message: string }[] {
  if (first === undefined || first === name) return [];
  return [{ rule: 'case-collision', message: `it differs from ${first} only in case, and most systems take both for one` }];
}
