import { member, toValue, type JsonNode } from './json-tree.js';
import type { TextPatch } from './patch-text.js';

/**
 * Sets a member of an object in a JSON text, in the manner of the file around it: replaced where it is, added behind the
 * last where it is not. Nothing where the value is there already, so that a save that changes nothing changes no byte.
 */
export function setMember(text: string, object: JsonNode & { kind: 'object' }, key: string, value: unknown): TextPatch[] {
  const existing = member(object, key);
  if (!existing) return [addMember(text, object, key, value)];
  if (sameValue(toValue(existing), value)) return [];
  return [{ start: existing.start, end: existing.end, text: printLike(text, existing, value) }];
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
