import { partsOf } from '../address/parts.js';
import { climb, parseReference } from '../address/reference.js';
import { relativize } from '../address/relativize.js';

/** Where the file stands in a bundle that a reference leads to, with what the reference means; null: it does not travel. */
export type InBundle = (href: string) => string | null;

/**
 * A reference as a bundle has it: relative, and right from where its file stands there. Null: it is right as it is written.
 * Paths are from the payload's top, `/` as separator, not percent-encoded.
 * @param from the file that the reference stands in
 * @param target what it reaches
 */
export function bundleReference(href: string, from: string, target: string): string | null {
  const parsed = parseReference(href);
  if (!parsed.ok || parsed.value.kind === 'service') return null;
  const folder = partsOf(from).slice(0, -1);
  const wanted = partsOf(target);
  if (parsed.value.kind === 'relative') {
    const reached = climb(folder, parsed.value.segments);
    if (reached?.length === wanted.length && reached.every((s, i) => s === wanted[i])) return null;
  }
  return relativize(folder, wanted, parsed.value.fragment);
}
