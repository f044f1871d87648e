import { done, fail, type Result } from '../problem.js';
import type { Address } from './address.js';
import { parseAddress } from './parse-address.js';
import { decodePercent } from './percent.js';

/** What an `href` says, before anyone looks whether it is there. */
export type Reference =
  | { readonly kind: 'service'; readonly url: string }
  | { readonly kind: 'absolute'; readonly address: Address; readonly fragment: string | null; readonly isUri: boolean }
  | {
      readonly kind: 'relative';
      /** May begin with `..` segments; holds no `.` and no empty segment. */
      readonly segments: readonly string[];
      readonly fragment: string | null;
      readonly isUri: boolean;
    };

export type StoredForm = 'relative' | 'absolute';

/** The form in which a reference is written. `http(s):` is a service; `file:`, a drive letter, a leading slash: absolute. */
export function classify(href: string): 'service' | 'absolute' | 'relative' {
  if (/^https?:/i.test(href)) return 'service';
  if (/^file:/i.test(href) || /^[A-Za-z]:/.test(href) || /^[\\/]/.test(href)) return 'absolute';
  return 'relative';
}

/** Endings of files that hold several datasets, named by the fragment. */
const CONTAINER = /\.(gpkg|gpx|kml|kmz|xlsx)$/i;

/** In raw Windows paths `#` is a letter of a name, unless a container's ending stands right before it. */
function splitRawFragment(text: string): { path: string; fragment: string | null } {
  const at = text.lastIndexOf('#');
  if (at > 0 && CONTAINER.test(text.slice(0, at))) return { path: text.slice(0, at), fragment: text.slice(at + 1) };
  return { path: text, fragment: null };
}

const URI_CHARACTERS = /^[A-Za-z0-9\-._~!$&'()*+,;=:@/?#%[\]]*$/;
const isRawWindows = (href: string): boolean => /^[A-Za-z]:/.test(href) || href.includes('\\');

/**
 * Parses an `href`. Raw Windows paths and raw spaces are read too and told by `isUri: false`; they are written properly
 * at the next rewrite. Fails on NUL, encoded slashes, and what `parseAddress` refuses.
 */
export function parseReference(href: string): Result<Reference> {
  const kind = classify(href);
  if (kind === 'service') return done({ kind, url: href });
  if (href.includes('\0') || /%00/.test(href)) return fail({ code: 'bad-address', text: href, why: 'it contains a NUL character' });
  const raw = !/^file:/i.test(href) && isRawWindows(href);
  const { path, fragment } = raw ? splitRawFragment(href) : splitUriFragment(href);
  const spelled = !raw && URI_CHARACTERS.test(href) && !/%(?![0-9A-Fa-f]{2})/.test(href);
  if (kind === 'absolute') {
    const isFile = /^file:/i.test(href);
    const parsed = parseAddress(raw || isFile ? path : decodePercent(path).text);
    if (!parsed.ok) return parsed;
    return done({ kind, address: parsed.value, fragment, isUri: spelled && isFile });
  }
  return parseRelative(href, path, fragment, raw, spelled);
}

function splitUriFragment(href: string): { path: string; fragment: string | null } {
  const at = href.indexOf('#');
  const path = (at < 0 ? href : href.slice(0, at)).replace(/\?.*$/s, '');
  return { path, fragment: at < 0 ? null : decodePercent(href.slice(at + 1)).text };
}

function parseRelative(href: string, path: string, fragment: string | null, raw: boolean, isUri: boolean): Result<Reference> {
  const segments: string[] = [];
  for (const part of path.split(raw ? /[\\/]/ : '/')) {
    const name = raw ? part : decodePercent(part).text;
    if (!raw && name.includes('/') && part !== name) return fail({ code: 'bad-address', text: href, why: 'it has an encoded slash' });
    if (name === '' || name === '.') continue;
    if (name === '..' && segments.length && segments[segments.length - 1] !== '..') segments.pop();
    else segments.push(name);
  }
  return done({ kind: 'relative', segments, fragment, isUri });
}

/** Walks `steps` (with `..`) from a folder; null above the top. */
export function climb(folder: readonly string[], steps: readonly string[]): string[] | null {
  const out = [...folder];
  for (const step of steps) {
    if (step !== '..') out.push(step);
    else if (out.pop() === undefined) return null;
  }
  return out;
}
