import type { Crs } from '../dataset/dataset.js';
import { plainName } from './choose-code.js';
import { ownCrsOf } from './own-crs.js';
import type { CrsTable } from './crs-table.js';
import { crsSignature } from './signature.js';
import { authorityCode, parseWkt, wktName } from './wkt.js';
import { asWkt1 } from './wkt2.js';

/**
 * The CRS that a `.prj` or another WKT describes. A code is given only where the text names it or its definition is that
 * of exactly one registered CRS; a lookalike name alone is no proof.
 */
export function identifyCrs(wkt: string, table: CrsTable): Crs | null {
  const known = recent.get(wkt);
  if (known && known.table === table) return known.crs;
  const crs = identify(wkt, table);
  if (recent.size >= MOST_RECENT) recent.delete(recent.keys().next().value!);
  recent.set(wkt, { table, crs });
  return crs;
}

/** Projects have thousands of `.prj` files and a handful of texts in them. First in, first out. */
const MOST_RECENT = 200;
const recent = new Map<string, { readonly table: CrsTable; readonly crs: Crs | null }>();

function identify(wkt: string, table: CrsTable): Crs | null {
  const text = wkt.replace(/^\uFEFF/, '').trim();
  const parsed = parseWkt(text);
  const node = parsed && asWkt1(parsed);
  if (!node) return text ? { code: null, name: null, wkt: text } : null;
  const signature = crsSignature(node);
  const written = wktName(node);
  const stated = authorityCode(node) ?? (signature && table.codeOf(signature, written));
  const code = stated && (table.flatOf?.(stated) ?? stated);
  const name = (code && table.nameOf(code)) ?? written;
  const own = code === null ? ownCrsOf(text, table) : null;
  const base = own ? { base: own.base } : {};
  // Positions are in the flat one; how heights are measured stays in its name and its text.
  if (node !== parsed && /^COMP/.test(parsed.keyword))
    return { code, name, wkt: text, ...base, otherName: wktName(parsed) ?? 'a CRS with heights' };
  const isOther = code !== null && written !== null && name !== null && plainName(written) !== plainName(name);
  return { code, name, wkt: text, ...base, ...(isOther ? { otherName: written } : {}) };
}

/** The CRS of a code that a file names by number. */
export function crsOfCode(code: string, table: CrsTable, wkt: string | null = null): Crs {
  const flat = table.flatOf?.(code) ?? null;
  if (flat === null) return { code, name: table.nameOf(code), wkt };
  return { code: flat, name: table.nameOf(flat), wkt, otherName: table.nameOf(code) ?? code };
}

/** Are two remembered CRSs known to differ? Unknown on either side is no difference. */
export function crsDiffers(a: string | { readonly wkt: string } | null, b: string | { readonly wkt: string } | null): boolean {
  if (a === null || b === null) return false;
  if (typeof a === 'string' && typeof b === 'string') return a !== b;
  if (typeof a === 'string' || typeof b === 'string') return false;
  const x = parseWkt(a.wkt);
  const y = parseWkt(b.wkt);
  if (!x || !y) return false;
  const p = crsSignature(asWkt1(x));
  const q = crsSignature(asWkt1(y));
  return p !== null && q !== null && p !== q;
}
