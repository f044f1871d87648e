/** Percent-encoding of path segments and fragments (RFC 3986 sections 2.1, 3.3, 3.5). */

const PATH_SAFE = /[A-Za-z0-9\-._~!$&'()*+,;=:@]/;
const FRAGMENT_SAFE = /[A-Za-z0-9\-._~!$&'()*+,;=:@/?]/;

function encode(text: string, safe: RegExp): string {
  let out = '';
  for (const ch of text.toWellFormed()) out += safe.test(ch) ? ch : encodeURIComponent(ch).replace(/['()*!]/g, percent);
  return out;
}
const percent = (ch: string): string => `%${ch.charCodeAt(0).toString(16).toUpperCase()}`;

/** One path segment as a URI has it; `/`, `#`, `?`, `%`, spaces and non-ASCII are encoded as UTF-8. */
export const encodeSegment = (segment: string): string => encode(segment, PATH_SAFE);
/** A fragment (table name) as a URI has it. */
export const encodeFragment = (fragment: string): string => encode(fragment, FRAGMENT_SAFE);

/**
 * Decodes percent triplets as UTF-8. A `%` that starts no triplet, or bytes that are no UTF-8, make `valid` false and
 * the text is given back as it stood, since such names do occur on disk.
 */
export function decodePercent(text: string): { readonly text: string; readonly valid: boolean } {
  if (!text.includes('%')) return { text, valid: true };
  try {
    return { text: decodeURIComponent(text), valid: true };
  } catch {
    return { text, valid: false };
  }
}
