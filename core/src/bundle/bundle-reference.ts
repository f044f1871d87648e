import { partsOf } from '../address/parts.js';
import { climb, parseReference } from '../address/reference.js';
import { relativize } from '../address/relativize.js';

/** Where something stands in a bundle: a file, or a table of a geodatabase that was made for it. */
export interface BundleTarget {
  readonly path: string;
  /** Null: the file, or what of it the reference itself names. */
  readonly table: string | null;
}

/** Where that stands in a bundle which a reference leads to; null: it does not travel. */
export type InBundle = (href: string) => BundleTarget | null;

/**
 * A reference as a bundle has it: relative, and right from where its file stands there. Null: it is right as it is written.
 * Paths are from the payload's top, `/` as separator, not percent-encoded.
 * @param from the file that the reference stands in
 * @param target what it reaches
 */
export function bundleReference(href: string, from: string, { path, table }: BundleTarget): string | null {
  const parsed = parseReference(href);
  if (!parsed.ok || parsed.value.kind === 'service') return null;
  const folder = partsOf(from).slice(0, -1);
  const wanted = partsOf(path);
  if (parsed.value.kind === 'relative' && table === null) {
    const reached = climb(folder, parsed.value.segments);
    if (reached?.length === wanted.length && reached.every((s, i) => s === wanted[i])) return null;
  }
  return relativize(folder, wanted, table ?? parsed.value.fragment);
}
