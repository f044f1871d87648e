import { textOf } from '../json/json-tree.js';
import type { TextPatch } from '../json/patch-text.js';
import { inlineStyles } from '../map/map-draft.js';
import type { MapFile, MapReference } from '../map/map-file.js';
import { patchFormat, patchLink, patchReference } from '../map/patch-map.js';
import { patchText } from '../json/patch-text.js';
import { picturesOfStyle } from '../sld/pictures-of-style.js';
import { escapeXml } from '../xml/xml-text.js';
import { bundleReference, type InBundle } from './bundle-reference.js';
import { withoutSecrets } from './secrets.js';

/** What a bundle has in another way than the project. */
export interface MapInBundle {
  readonly patches: readonly TextPatch[];
  /** Titles of layers whose address had a password or a key in it, which was taken out. */
  readonly secretsOf: readonly string[];
}

/**
 * What changes in a map for a bundle: every reference to something that travels is relative and leads to where it stands
 * there; what does not travel keeps its address. Passwords and keys in addresses of services are taken out.
 * @param at the map's own path in the bundle
 */
export function rewriteMapForBundle(file: MapFile, at: string, inBundle: InBundle): MapInBundle {
  const patches: TextPatch[] = [];
  const secretsOf: string[] = [];
  const rewrite = (reference: MapReference): boolean => {
    const target = inBundle(reference.href);
    const href = target === null ? null : bundleReference(reference.href, at, target);
    if (href !== null) patches.push(...patchReference(reference, href));
    return href !== null;
  };
  for (const layer of file.layers) {
    const all = layer.reference ? [layer.reference, ...layer.others] : layer.others;
    let isSecret = false;
    for (const reference of all) {
      const safe = withoutSecrets(reference.href);
      if (safe !== reference.href) {
        patches.push(...patchReference(reference, safe));
        isSecret = true;
      } else if (rewrite(reference) && reference === layer.reference) {
        if (layer.link) patches.push(...patchLink(layer, null));
        if (inBundle(reference.href)?.table) patches.push(...patchFormat(layer, 'geopackage'));
      }
    }
    if (isSecret) secretsOf.push(layer.title);
    for (const node of inlineStyles(layer)) {
      const text = rewriteStyleForBundle(textOf(node)!, at, inBundle);
      if (text !== null) patches.push({ start: node.start, end: node.end, text: JSON.stringify(text) });
    }
  }
  if (file.working) rewrite(file.working);
  return { patches, secretsOf };
}

/** A style whose pictures stand elsewhere in the bundle; null: it is right as it is. @param at the file it stands in, in the bundle */
export function rewriteStyleForBundle(text: string, at: string, inBundle: InBundle): string | null {
  const patches = picturesOfStyle(text).flatMap(({ href, start, end }): TextPatch[] => {
    const target = inBundle(href);
    const after = target === null ? null : bundleReference(href, at, target);
    return after === null ? [] : [{ start, end, text: escapeXml(after) }];
  });
  return patches.length > 0 ? patchText(text, patches) : null;
}
