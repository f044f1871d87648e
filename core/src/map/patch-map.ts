import type { Fingerprint } from '../dataset/fingerprint.js';
import type { Format } from '../dataset/dataset.js';
import { items, member, type JsonNode } from '../json/json-tree.js';
import type { TextPatch } from '../json/patch-text.js';
import { setMember } from '../json/set-member.js';
import { offeringCode, mediaType } from './media-types.js';
import type { MapFile, MapLayer, MapReference } from './map-file.js';

const replace = (node: JsonNode, value: unknown): TextPatch => ({ start: node.start, end: node.end, text: JSON.stringify(value) });

/** Rewrites one address, at each token that states it. */
export const patchReference = (reference: MapReference, href: string): TextPatch[] => reference.nodes.map((node) => replace(node, href));

/** An address for a layer that records none: into its first offering, or a new one. */
export function patchNewReference(map: MapFile, layer: MapLayer, format: Format, href: string): TextPatch[] {
  const content = { type: mediaType(format), href };
  const properties = member(layer.node, 'properties');
  const offerings = member(properties, 'offerings');
  const first = items(offerings)[0];
  if (first?.kind === 'object') return setMember(map.text, first, 'contents', [content]);
  const offering = { code: offeringCode(format), contents: [content] };
  if (properties?.kind === 'object') return setMember(map.text, properties, 'offerings', [offering]);
  return layer.node.kind === 'object' && !properties ? setMember(map.text, layer.node, 'properties', { offerings: [offering] }) : [];
}

/** `code` and `type` when the data's format is another one now. */
export function patchFormat(layer: MapLayer, format: Format): TextPatch[] {
  const patches: TextPatch[] = [];
  if (layer.codeNode) patches.push(replace(layer.codeNode, offeringCode(format)));
  if (layer.typeNode) patches.push(replace(layer.typeNode, mediaType(format)));
  return patches;
}

/** Rewrites, adds or removes `rootmap.link`; nothing where there is none and none is wanted. */
export function patchLink(layer: MapLayer, link: { name: string; path: string } | null): TextPatch[] {
  const node = member(oursOf(layer), 'link');
  if (!node) return [];
  return [replace(node, link)];
}

/** The layer's own `rootmap` member. */
export const oursOf = (layer: MapLayer): JsonNode | undefined =>
  member(member(layer.node, 'properties'), 'rootmap') ?? member(layer.node, 'rootmap');

/** Stores a fingerprint: replaces the one there, or adds it with the indentation that the file has. */
export function patchFingerprint(map: MapFile, layer: MapLayer, fingerprint: Fingerprint): TextPatch[] {
  const ours = oursOf(layer);
  if (ours?.kind === 'object') return setMember(map.text, ours, 'fingerprint', fingerprint);
  const properties = member(layer.node, 'properties');
  if (properties?.kind === 'object') return setMember(map.text, properties, 'rootmap', { fingerprint });
  if (layer.node.kind !== 'object' || properties) return [];
  return setMember(map.text, layer.node, 'properties', { rootmap: { fingerprint } });
}

/** The geodatabase that a map works in: written, or taken out by null. */
export function patchWorking(map: MapFile, href: string | null): TextPatch[] {
  if (href === null && map.working === null) return [];
  const properties = member(map.tree, 'properties');
  const ours = member(properties, 'rootmap') ?? member(map.tree, 'rootmap');
  if (ours?.kind === 'object') return setMember(map.text, ours, 'workingGeodatabase', href);
  if (properties?.kind === 'object') return setMember(map.text, properties, 'rootmap', { workingGeodatabase: href });
  return map.tree.kind === 'object' ? setMember(map.text, map.tree, 'rootmap', { workingGeodatabase: href }) : [];
}
