import type { Fingerprint } from '../dataset/fingerprint.js';
import type { Format } from '../dataset/dataset.js';
import { member, toValue, type JsonNode } from '../json/json-tree.js';
import type { TextPatch } from '../json/patch-text.js';
import { offeringCode, mediaType } from './media-types.js';
import type { MapFile, MapLayer, MapReference } from './map-file.js';

const replace = (node: JsonNode, value: unknown): TextPatch => ({ start: node.start, end: node.end, text: JSON.stringify(value) });

/** Rewrites one address, at each token that states it. */
export const patchReference = (reference: MapReference, href: string): TextPatch[] => reference.nodes.map((node) => replace(node, href));

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

const oursOf = (layer: MapLayer): JsonNode | undefined =>
  member(member(layer.node, 'properties'), 'rootmap') ?? member(layer.node, 'rootmap');

/** Stores a fingerprint: replaces the one there, or adds it with the indentation that the file has. */
export function patchFingerprint(map: MapFile, layer: MapLayer, fingerprint: Fingerprint): TextPatch[] {
  const ours = oursOf(layer);
  const existing = member(ours, 'fingerprint');
  if (existing) {
    if (sameValue(toValue(existing), fingerprint)) return []; // a save that changes nothing changes no byte
    return [{ start: existing.start, end: existing.end, text: printLike(map.text, existing, fingerprint) }];
  }
  if (ours?.kind === 'object') return [addMember(map.text, ours, 'fingerprint', fingerprint)];
  const properties = member(layer.node, 'properties');
  if (properties?.kind === 'object') return [addMember(map.text, properties, 'rootmap', { fingerprint })];
  if (layer.node.kind !== 'object' || properties) return [];
  return [addMember(map.text, layer.node, 'properties', { rootmap: { fingerprint } })];
}

/** Equal as JSON; the order of members does not count. */
function sameValue(a: unknown, b: unknown): boolean {
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return a === b;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  const keys = Object.keys(a);
  return (
    keys.length === Object.keys(b).length &&
    keys.every((k) => Object.hasOwn(b, k) && sameValue((a as Record<string, unknown>)[k], (b as Record<string, unknown>)[k]))
  );
}

/** The blank text before a member: a line break with its indentation, or what a compact file has. */
function gapBefore(text: string, object: JsonNode): string {
  if (object.kind !== 'object' || object.members.length === 0) return '';
  return text.slice(object.start + 1, object.members[0]!.keyStart);
}

/** A value printed in the manner of the file around `node`: on one line where the file is compact. */
function printLike(text: string, node: JsonNode, value: unknown): string {
  const lineStart = text.lastIndexOf('\n', node.start) + 1;
  const indent = /^[ \t]*/.exec(text.slice(lineStart, node.start))![0];
  return text.includes('\n') ? print(value, indent, unitOf(text)) : JSON.stringify(value);
}

function unitOf(text: string): string {
  return /\n([ \t]+)"/.exec(text)?.[1] ?? '  ';
}

/** Objects over several lines, lists on one: fingerprints stay readable and short. */
function print(value: unknown, indent: string, unit: string): string {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return JSON.stringify(value);
  const entries = Object.entries(value);
  if (entries.length === 0) return '{}';
  const inner = indent + unit;
  return `{\n${entries.map(([k, v]) => `${inner}${JSON.stringify(k)}: ${print(v, inner, unit)}`).join(',\n')}\n${indent}}`;
}

function addMember(text: string, object: JsonNode & { kind: 'object' }, key: string, value: unknown): TextPatch {
  const gap = gapBefore(text, object);
  const multiLine = gap.includes('\n');
  const indent = multiLine ? gap.slice(gap.lastIndexOf('\n') + 1) : '';
  const body = multiLine || object.members.length === 0 ? print(value, indent, unitOf(text)) : JSON.stringify(value);
  const last = object.members[object.members.length - 1];
  if (last) return { start: last.value.end, end: last.value.end, text: `,${gap}${JSON.stringify(key)}:${multiLine ? ' ' : ''}${body}` };
  return { start: object.start + 1, end: object.start + 1, text: `${JSON.stringify(key)}: ${JSON.stringify(value)}` };
}
