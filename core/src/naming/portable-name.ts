/** Names that some target system cannot take. Microsoft Learn, "Naming Files, Paths, and Namespaces"; FAT and zip limits. */

const DEVICE = /^(con|prn|aux|nul|com[1-9¹²³]|lpt[1-9¹²³]|conin\$|conout\$)$/i;
const FORBIDDEN = '<>:"/\\|?*';
/** Longest path in UTF-16 code units with its terminating NUL. */
export const WINDOWS_PATH_LIMIT = 260;
const NAME_LIMIT = 255;

/** Why a single name cannot stand on every system; null when it can. */
export function unportableName(name: string): string | null {
  if (name === '' || name === '.' || name === '..') return 'it is no name';
  for (const ch of name) {
    if (ch.codePointAt(0)! < 0x20) return 'it has a control character';
    if (FORBIDDEN.includes(ch)) return `it has ${ch}`;
  }
  if (/[ .]$/.test(name)) return 'it ends with a space or a period';
  if (DEVICE.test(name.replace(/[.:].*$/s, '').replace(/ +$/, ''))) return 'Windows keeps that name for a device';
  if (name.length > NAME_LIMIT || utf8Bytes(name) > NAME_LIMIT) return `it is longer than ${NAME_LIMIT} characters or bytes`;
  return null;
}

/** Linux counts a name in bytes of UTF-8. */
export function utf8Bytes(text: string): number {
  let bytes = 0;
  for (const ch of text) {
    const code = ch.codePointAt(0)!;
    bytes += code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
  }
  return bytes;
}

export interface PathFinding {
  readonly path: string;
  readonly why: string;
}

/**
 * What will not arrive whole on another system: names, names that differ only in case, and paths that grow past the limit
 * below a new root of `rootLength` characters. Paths are relative, `/` as separator.
 */
export function unportablePaths(paths: readonly string[], rootLength: number): PathFinding[] {
  const findings: PathFinding[] = [];
  const seen = new Map<string, string>();
  for (const path of paths) {
    const bad = path
      .split('/')
      .map(unportableName)
      .find((w) => w !== null);
    if (bad) findings.push({ path, why: bad });
    if (rootLength + 1 + path.length + 1 > WINDOWS_PATH_LIMIT)
      findings.push({ path, why: `the path is longer than ${WINDOWS_PATH_LIMIT} characters on Windows` });
    const key = path.normalize('NFC').toLowerCase();
    const other = seen.get(key);
    if (other !== undefined && other !== path) findings.push({ path, why: `differs only in case from ${other}` });
    else seen.set(key, path);
  }
  return findings;
}
