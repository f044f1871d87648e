/**
 * Where something is, parsed once. Nothing compares raw strings.
 * - `posix`: root `/`
 * - `drive`: root `D:` (letter in upper case)
 * - `unc`: root `//server/share` (spelling kept, compared without regard to case)
 * `segments` hold no empty, `.` or `..` segment; `isFolder` says that the text ended with a separator.
 */
export interface Address {
  readonly flavour: 'posix' | 'drive' | 'unc';
  readonly root: string;
  readonly segments: readonly string[];
  readonly isFolder: boolean;
}

export const address = (flavour: Address['flavour'], root: string, segments: readonly string[], isFolder = false): Address => ({
  flavour,
  root,
  segments,
  isFolder,
});

/** Of a root alone. */
export const flavourOf = (root: string): Address['flavour'] => (root === '/' ? 'posix' : root.startsWith('//') ? 'unc' : 'drive');

/** Comparison key of a name where case does not count: NFC, lower case. */
export const foldName = (name: string): string => name.normalize('NFC').toLowerCase();
/** Comparison key of a name where case counts: NFC. */
export const normalName = (name: string): string => name.normalize('NFC');

/** The path as people write it: `/srv/gis/x`, `D:/gis/x`, `//server/share/x` (always with `/`). */
export function printAddress(a: Address): string {
  const path = a.segments.join('/');
  const tail = a.isFolder && path ? '/' : '';
  return a.flavour === 'posix' ? `/${path}${tail}` : `${a.root}/${path}${tail}`;
}
