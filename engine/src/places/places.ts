import { lettersInUse } from './drives.js';
import { accessSync, constants, existsSync, statSync } from 'node:fs';
import { parseDriveName, ProblemError, type Address, type Place, printAddress, foldName } from '@rootmap/core';
import { asSpelled, realPath } from '../disk/real-path.js';
import { basename, dirname, join, resolve, pathOfAddress, toAddress, FLAVOUR } from '../disk/native-path.js';

/** A place as configured: name, folder, and what other machines call it. */
export interface PlaceSetting {
  readonly name: string;
  readonly folder: string;
  readonly driveNames: readonly string[];
  /** Folders at which it stood before it was known again, the last first: map files may still name them. */
  readonly formerly?: readonly string[];
}

/**
 * Where the command line works: the whole file system; on Windows each drive that is there, and each share on which a path
 * stands that was named. A share that only a map file names is not asked: that would offer it the person's name and password.
 *
 * @param named absolute paths
 */
export function wholeDisks(named: readonly string[]): PlaceSetting[] {
  if (FLAVOUR === 'posix') return [{ name: 'local', folder: '/', driveNames: [] }];
  const roots = named.map((path) => printAddress({ ...toAddress(path), segments: [] }));
  return [...new Set([...lettersInUse(), ...roots])].map((folder) => ({
    name: folder.replace(/\/$/, ''),
    folder,
    driveNames: [],
  }));
}

/** `NAME=FOLDER[,DRIVE…]`, as `--place` and `ROOTMAP_PLACES` (separated by `;`) have it. */
export function parsePlaceSetting(text: string, from: string): PlaceSetting {
  const equals = text.indexOf('=');
  const [folder = '', ...driveNames] = text.slice(equals + 1).split(',');
  if (equals < 1 || folder === '')
    throw new ProblemError({ code: 'wrong-use', message: `"${text}" names no place: write NAME=FOLDER or NAME=FOLDER,D:.` });
  for (const name of driveNames)
    if (!parseDriveName(name))
      throw new ProblemError({
        code: 'wrong-use',
        message: `"${name}" is no drive name: write a letter with a colon (D:) or \\\\server\\share.`,
      });
  return { name: text.slice(0, equals), folder: folderNamed(folder, from), driveNames };
}

export const parsePlaceList = (text: string | undefined, from: string): PlaceSetting[] =>
  (text ?? '')
    .split(';')
    .map((t) => t.trim())
    .filter(Boolean)
    .map((t) => parsePlaceSetting(t, from));

/** A folder as a person writes it. `D:` alone is all of the drive, whatever folder is current on it. */
export const folderNamed = (text: string, from = ''): string => asSpelled(resolve(from, /^[A-Za-z]:$/.test(text) ? `${text}/` : text));

/** The place as it is now: is it there, does it ignore case, can it be written to. */
export function openPlace(setting: PlaceSetting): Place {
  const present = existsSync(setting.folder) && statSync(setting.folder).isDirectory();
  const root = toAddress(setting.folder);
  return {
    name: setting.name,
    root,
    ...(FLAVOUR === 'win32' && present ? { aliases: aliasesOf(setting.folder, root) } : {}),
    driveNames: setting.driveNames.map(parseDriveName).filter((a): a is Address => a !== null),
    ...(setting.formerly?.length ? { formerly: setting.formerly.map(toAddress) } : {}),
    present,
    ignoresCase: present && ignoresCase(setting.folder),
    readOnly: present && !isWritable(setting.folder),
  };
}

/** What stands behind a letter: a share, or a folder of another drive. */
function aliasesOf(folder: string, root: Address): Address[] {
  const real = toAddress(realPath(folder));
  return foldName(printAddress(real)) === foldName(printAddress(root)) ? [] : [real];
}

export const pathOf = (place: Place): string => pathOfAddress(place.root);

/** Probed without writing: does the folder answer to its own name in the other case? */
function ignoresCase(folder: string): boolean {
  if (FLAVOUR === 'win32' && folder === dirname(folder)) return true; // a drive has no name to spell otherwise
  const name = basename(folder);
  const swapped = name === name.toUpperCase() ? name.toLowerCase() : name.toUpperCase();
  if (swapped === name) return false;
  try {
    return statSync(join(dirname(folder), swapped)).ino === statSync(folder).ino;
  } catch {
    return false; // the other spelling is not there, which is the answer
  }
}

function isWritable(folder: string): boolean {
  try {
    accessSync(folder, constants.W_OK);
    return true;
  } catch {
    return false; // the system says so; that is the answer
  }
}

/** Real path of a place's root, links followed; the folder as configured where it is not present. */
export const realRoot = (place: Place): string => (place.present ? realPath(pathOf(place)) : pathOf(place));
