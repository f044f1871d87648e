import { fail, done, type Result } from '../problem.js';
import { address, type Address } from './address.js';
import { decodePercent } from './percent.js';

const bad = (text: string, why: string): Result<never> => fail({ code: 'bad-address', text, why });

/** `..` above the root is an error: nothing stands there. */
function cleanSegments(text: string, parts: readonly string[]): Result<string[]> {
  const out: string[] = [];
  for (const part of parts) {
    if (part.includes('\0')) return bad(text, 'it contains a NUL character');
    if (part === '' || part === '.') continue;
    if (part !== '..') out.push(part);
    else if (out.pop() === undefined) return bad(text, 'it leads above its root');
  }
  return done(out);
}

const endsAsFolder = (parts: readonly string[]): boolean => {
  const last = parts[parts.length - 1];
  return last === '' || last === '.' || last === '..';
};

function build(text: string, flavour: Address['flavour'], root: string, parts: readonly string[]): Result<Address> {
  const clean = cleanSegments(text, parts);
  return clean.ok ? done(address(flavour, root, clean.value, endsAsFolder(parts))) : clean;
}

function buildUnc(text: string, parts: readonly string[]): Result<Address> {
  const [server, share, ...rest] = parts;
  if (!server || !share || /^\.\.?$/.test(server) || /^\.\.?$/.test(share)) return bad(text, 'a network path needs a server and a share');
  if (server.includes('\0') || share.includes('\0')) return bad(text, 'it contains a NUL character');
  return build(text, 'unc', `//${server}/${share}`, rest.length ? rest : ['']);
}

/**
 * An absolute path or `file:` URI as an address.
 * Read: POSIX paths; drive paths with either slash; UNC with either slash; extended-length prefixes (`\\?\C:\`, `\\?\UNC\`);
 * `file:` URIs of RFC 8089, its appendix E included. Refused with a reason: drive-relative paths (`D:x`), device paths
 * (`\\.\`), encoded slashes, NUL, relative text. Never throws.
 */
export function parseAddress(text: string): Result<Address> {
  if (/^file:/i.test(text)) return parseFileUri(text);
  if (/^[\\/]{2}\?[\\/]/.test(text)) return parseExtended(text);
  if (/^[\\/]{2}\.[\\/]/.test(text)) return bad(text, 'it names a device, not a file');
  if (/^[A-Za-z]:/.test(text)) return parseDrive(text, text);
  if (/^(\\\\|\/\/)/.test(text)) return buildUnc(text, text.slice(2).split(/[\\/]/));
  if (text.startsWith('/')) return build(text, 'posix', '/', text.slice(1).split('/'));
  return bad(text, 'it is not absolute');
}

function parseExtended(text: string): Result<Address> {
  const rest = text.slice(4);
  if (/^UNC[\\/]/i.test(rest)) return buildUnc(text, rest.slice(4).split(/[\\/]/));
  if (/^[A-Za-z]:/.test(rest)) return parseDrive(rest, text);
  return bad(text, 'it names a device, not a file');
}

function parseDrive(path: string, text: string): Result<Address> {
  const rest = path.slice(2);
  if (rest !== '' && !/^[\\/]/.test(rest)) return bad(text, 'it depends on the current folder of a drive');
  return build(text, 'drive', `${path[0]!.toUpperCase()}:`, rest.slice(1).split(/[\\/]/));
}

/** RFC 8089 section 2, appendices B and E. The query and fragment, where there are any, are left to the caller. */
function parseFileUri(text: string): Result<Address> {
  const rest = text.slice('file:'.length).replace(/[?#][\s\S]*$/, '');
  if (/%2f|%5c/i.test(rest)) return bad(text, 'it has an encoded slash');
  const decoded = decodePercent(rest).text;
  if (decoded.includes('\0')) return bad(text, 'it contains a NUL character');
  const path = decoded.replaceAll('\\', '/');
  const drive = /^\/{0,3}([A-Za-z])[:|](\/[\s\S]*)?$/.exec(path);
  if (drive) return build(text, 'drive', `${drive[1]!.toUpperCase()}:`, (drive[2] ?? '/').slice(1).split('/'));
  const slashes = /^\/*/.exec(path)![0].length;
  if (slashes === 0) return bad(text, 'a file: URI needs an absolute path');
  if (slashes === 2) return parseWithAuthority(text, path);
  const parts = path.slice(slashes).split('/');
  return slashes === 4 || slashes === 5 ? buildUnc(text, parts) : build(text, 'posix', '/', parts);
}

function parseWithAuthority(text: string, path: string): Result<Address> {
  const [authority = '', ...parts] = path.slice(2).split('/');
  const host = authority.replace(/^[^@]*@/, ''); // RFC 8089 appendix E.1: user information is read over
  if (host.toLowerCase() !== 'localhost') return buildUnc(text, [host, ...parts]);
  if (/^[A-Za-z][:|]$/.test(parts[0] ?? '')) return build(text, 'drive', `${parts[0]![0]!.toUpperCase()}:`, parts.slice(1));
  return build(text, 'posix', '/', parts);
}
