import nodePath from 'node:path';
import { address, parseAddress, printAddress, ProblemError, type Address } from '@rootmap/core';

/*
 * The one boundary between paths as the system writes them and paths as the engine has them, and the only file that knows
 * `node:path`; a test holds everything else to that. In the engine a path is the text of an address (`printAddress`):
 * `/srv/gis/x`, `D:/gis/x`, `//server/share/x`, with `/` between its parts on every system. Node takes those as they are,
 * on Windows too, and by itself asks the system for the verbatim form, so that neither the length nor a point at the end of a
 * name matters. What the system gives (a working folder, a resolved link, an event of a watch) comes in through `fromNative`;
 * what goes to another program, or to a person who will paste it there, goes out through `toNative`.
 */

export type Flavour = 'win32' | 'posix';
export const FLAVOUR: Flavour = process.platform === 'win32' ? 'win32' : 'posix';

/** Past this many units Windows wants the verbatim form (Microsoft, "Maximum Path Length Limitation": MAX_PATH is 260 with the NUL). */
const PLAIN_UNITS = 259;
/** Names that plain Windows paths cannot say: devices, and what ends with a point or a space (Microsoft, "Naming Files, Paths, and Namespaces"). */
const ONLY_VERBATIM = /^(con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³]|conin\$|conout\$)(\s*\..*)?$|[. ]$/i;

export interface PathsOf {
  /**
   * An absolute path of the system, in any of its spellings, as the engine has it. Of Windows: either slash, letters of
   * drives in either case, the verbatim forms. Throws `bad-address` for a device and for what depends on a current folder.
   */
  readonly fromNative: (text: string) => string;
  /** As the system's own programs take it: on Windows with `\`, and verbatim where the plain form would mean something else. */
  readonly toNative: (path: string) => string;
  /** Of a system's own kind, from a root; false for what starts at a folder. */
  readonly isAbsolute: (path: string) => boolean;
  readonly toAddress: (path: string) => Address;
  /** Throws `bad-address` for one of another kind of system. */
  readonly pathOfAddress: (address: Address) => string;
  readonly join: (folder: string, ...parts: readonly string[]) => string;
  /** What a person or an option of a command names, from a folder (without one: from the working folder); either slash on Windows. */
  readonly resolve: (...texts: readonly string[]) => string;
  /** The folder that something is in; of a root itself. */
  readonly dirname: (path: string) => string;
  /** The last part, without the ending that is named. */
  readonly basename: (path: string, ending?: string) => string;
  /** The ending with its point, '' where there is none. */
  readonly extname: (path: string) => string;
  /** What the paths of all that is below a folder start with: for loops in which joining would take too long. */
  readonly startOf: (folder: string) => string;
  /** The path itself, or something below the folder. */
  readonly isInside: (folder: string, path: string) => boolean;
  /** Something below the folder, not the folder itself. */
  readonly isBelow: (folder: string, path: string) => boolean;
  /** What leads from the folder to something below it, with `/`; null: it is not below. */
  readonly below: (folder: string, path: string) => string | null;
  /** As `below`, to tell people where something is: the path itself where it is elsewhere. */
  readonly pathFrom: (folder: string, path: string) => string;
  /** Where something below `from` (or `from` itself) is when that has become `to`. */
  readonly rebase: (path: string, from: string, to: string) => string;
  /** From one folder to another, with `/`; across drives the path itself. */
  readonly relative: (from: string, to: string) => string;
}

/** Of the bits of a file, those that the system keeps: on Windows whether it may be written to, which Node shows as 666 or 444. */
export const keptBits = (mode: number): number => (FLAVOUR === 'posix' ? mode : mode & 0o200 ? 0o666 : 0o444);

const refuse = (text: string, why: string): never => {
  throw new ProblemError({ code: 'bad-address', text, why });
};

/** What both kinds of system share, once the parts are parted by `/`. */
function shared(isOne: (a: string, b: string) => boolean, startsWith: (path: string, start: string) => boolean) {
  const startOf = (folder: string): string => (folder.endsWith('/') ? folder : `${folder}/`);
  const isBelow = (folder: string, path: string): boolean => {
    const start = startOf(folder);
    return path.length > start.length && startsWith(path, start);
  };
  const below = (folder: string, path: string): string | null => (isBelow(folder, path) ? path.slice(startOf(folder).length) : null);
  return {
    startOf,
    isBelow,
    isInside: (folder: string, path: string): boolean => isOne(folder, path) || isBelow(folder, path),
    below,
    pathFrom: (folder: string, path: string): string => below(folder, path) ?? path,
    rebase: (path: string, from: string, to: string): string => (isOne(path, from) ? to : startOf(to) + path.slice(startOf(from).length)),
  };
}

const slashed = (text: string): string => text.replaceAll('\\', '/');

const isOneName = (a: string, b: string): boolean => a === b || a.toLowerCase() === b.toLowerCase();

const win32: PathsOf = {
  ...shared(isOneName, (path, start) => isOneName(path.slice(0, start.length), start)),
  fromNative: (text) => printAddress(windowsAddress(text)),
  toNative(path) {
    const plain = path.replaceAll('/', '\\');
    const names = windowsAddress(path).segments;
    if (plain.length <= PLAIN_UNITS && !names.some((n) => ONLY_VERBATIM.test(n))) return plain;
    return plain.startsWith('\\\\') ? `\\\\?\\UNC\\${plain.slice(2)}` : `\\\\?\\${plain}`;
  },
  isAbsolute: (path) => /^([A-Za-z]:)?[\\/]/.test(path),
  toAddress: (path) => windowsAddress(path),
  pathOfAddress: (a) =>
    a.flavour === 'posix' ? refuse(printAddress(a), 'it is a path of another kind of system') : printAddress(folderless(a)),
  join: (folder, ...parts) => slashed(nodePath.win32.join(folder, ...parts)),
  resolve(...texts) {
    const last = texts.at(-1) ?? '';
    if (/^[\\/]{2}[?.][\\/]/.test(last)) return win32.fromNative(last); // Node takes those for a server
    const path = slashed(nodePath.win32.resolve(...texts));
    return /^[a-z]:/.test(path) ? path[0]!.toUpperCase() + path.slice(1) : path;
  },
  dirname: (path) => nodePath.win32.dirname(path),
  basename: (path, ending) => nodePath.win32.basename(path, ending),
  extname: (path) => nodePath.win32.extname(path),
  relative: (from, to) => slashed(nodePath.win32.relative(from, to)),
};

const folderless = (a: Address): Address => (a.isFolder ? { ...a, isFolder: false } : a);

function windowsAddress(text: string): Address {
  const parsed = parseAddress(slashed(text)); // Windows takes either for either
  if (!parsed.ok) throw new ProblemError(parsed.problem);
  return parsed.value.flavour === 'posix' ? refuse(text, 'it depends on the current drive') : folderless(parsed.value);
}

const { posix: node } = nodePath;
const posix: PathsOf = {
  ...shared(
    (a, b) => a === b,
    (path, start) => path.startsWith(start),
  ),
  fromNative: (text) => text,
  toNative: (path) => path,
  isAbsolute: (path) => path.startsWith('/'),
  toAddress: (path) => address('posix', '/', path.split('/').filter(Boolean)),
  pathOfAddress: (a) =>
    a.flavour === 'posix' ? `/${a.segments.join('/')}` : refuse(printAddress(a), 'it is a path of another kind of system'),
  join: (...parts) => node.join(...parts),
  resolve: (...texts) => node.resolve(...texts),
  dirname: (path) => node.dirname(path),
  basename: (path, ending) => node.basename(path, ending),
  extname: (path) => node.extname(path),
  relative: (from, to) => node.relative(from, to),
};

/** The rules of one kind of system, whichever this one is. */
export const pathsOf = (flavour: Flavour): PathsOf => (flavour === 'win32' ? win32 : posix);

export const {
  fromNative,
  toNative,
  toAddress,
  pathOfAddress,
  join,
  resolve,
  dirname,
  basename,
  extname,
  isInside,
  isBelow,
  below,
  pathFrom,
  rebase,
  relative,
  startOf,
  isAbsolute,
} = pathsOf(FLAVOUR);
