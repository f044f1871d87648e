import type { Location, Place } from '../address/place.js';
import { patchText, type TextPatch } from '../json/patch-text.js';
import { picturesOfStyle } from '../sld/pictures-of-style.js';
import { escapeXml } from '../xml/xml-text.js';
import { rewrite, type Moves } from './relocate-reference.js';

export interface RewrittenStyle {
  readonly text: string;
  readonly references: readonly { readonly before: string; readonly after: string }[];
}

/**
 * A style after a move: the addresses of pictures that moved, or that are told from where the style stands. Null: all stay.
 * @param at the file that the style stands in: its own, or the map's
 * @param actual as in `rewriteMap`
 */
export function rewriteStyle(
  text: string,
  at: Location,
  moves: Moves,
  places: readonly Place[],
  actual: (location: Location) => Location,
): RewrittenStyle | null {
  const after = moves.of(at);
  const patches: TextPatch[] = [];
  const references: { before: string; after: string }[] = [];
  for (const { href, start, end } of picturesOfStyle(text)) {
    const rewritten = rewrite(at, after, { href }, moves, places, actual);
    if (rewritten === null) continue;
    patches.push({ start, end, text: escapeXml(rewritten.href) });
    references.push({ before: href, after: rewritten.href });
  }
  return patches.length > 0 ? { text: patchText(text, patches), references } : null;
}
