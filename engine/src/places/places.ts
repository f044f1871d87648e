import { accessSync, constants, existsSync, realpathSync, statSync } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import { address, must, parseAddress, parseDriveName, ProblemError, type Address, type Place } from '@rootmap/core';

/** A place as configured: name, folder, and what other machines call it. */
export interface PlaceSetting {
  readonly name: string;
  readonly folder: string;
  readonly driveNames: readonly string[];
}

/** The place that stands for the whole file system, where the command line works. */
export const LOCAL: PlaceSetting = { name: 'local', folder: '/', driveNames: [] };

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
  return { name: text.slice(0, equals), folder: resolve(from, folder), driveNames };
}

export const parsePlaceList = (text: string | undefined, from: string): PlaceSetting[] =>
  (text ?? '')
    .split(';')
    .map((t) => t.trim())
    .filter(Boolean)
    .map((t) => parsePlaceSetting(t, from));

/** The place as it is now: is it there, does it ignore case, can it be written to. */
export function openPlace(setting: PlaceSetting): Place {
  const present = existsSync(setting.folder) && statSync(setting.folder).isDirectory();
  return {
    name: setting.name,
    root: posixAddress(setting.folder),
    driveNames: setting.driveNames.map(parseDriveName).filter((a): a is Address => a !== null),
    present,
    ignoresCase: present && ignoresCase(setting.folder),
    readOnly: present && !isWritable(setting.folder),
  };
}

const posixAddress = (folder: string): Address => must(parseAddress(folder));

export const pathOf = (place: Place): string => `/${place.root.segments.join('/')}`;

/** Probed without writing: does the folder answer to its own name in the other case? */
function ignoresCase(folder: string): boolean {
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
export const realRoot = (place: Place): string => (place.present ? realpathSync(pathOf(place)) : pathOf(place));

export const toAddress = (path: string): Address => address('posix', '/', path.split('/').filter(Boolean));
