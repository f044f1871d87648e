import { unescapeXml } from '../xml/xml-text.js';
import { items, member, textOf, type JsonNode } from '../json/json-tree.js';

const KEYWORDS = new Set('and or not in like ilike is null between true false'.split(' '));

/** Literals, double-quoted names, bare words, and the bracket that makes a function of one. */
export const FILTER_TOKEN = /'(?:[^']|'')*'|"((?:[^"]|"")+)"|([\p{L}_][\p{L}\p{N}_]*)(\s*\()?/gu;
/** Whether a token of a filter is a field: a quoted name, or a bare one that is no keyword and no function. */
export const isFieldToken = (quoted: string | undefined, bare: string | undefined, bracket: string | undefined): boolean =>
  quoted !== undefined || (bare !== undefined && !bracket && !KEYWORDS.has(bare.toLowerCase()));

/** Field names that a filter expression mentions. */
export function fieldsOfFilter(filter: string): string[] {
  const tokens = [...filter.matchAll(FILTER_TOKEN)].filter((m) => isFieldToken(m[1], m[2], m[3]));
  return [...new Set(tokens.map((m) => m[1]?.replaceAll('""', '"') ?? m[2]!))];
}

/** Names between braces of a label template; a label can also be `{"field": name}`. */
export function fieldsOfLabel(label: JsonNode | undefined): string[] {
  const field = textOf(member(label, 'field'));
  if (field !== undefined) return [field];
  const template = textOf(label) ?? textOf(member(label, 'template')) ?? '';
  return [...template.matchAll(/\{([^{}]+)\}/g)].map((m) => m[1]!.trim());
}

/** `PropertyName` and `ValueReference` of a style (SLD 1.0, SE 1.1). */
export const STYLE_FIELD = /(<(?:\w+:)?(?:PropertyName|ValueReference)>)([^<]+)(<)/g;
export const fieldsOfStyle = (text: string): string[] => [...text.matchAll(STYLE_FIELD)].map((m) => unescapeXml(m[2]!.trim()));

const textOfStyle = (style: JsonNode): string =>
  textOf(member(style, 'content')) ?? textOf(member(member(style, 'content'), 'content')) ?? '';

/** A filter is a text, or an object that has it as `expression`. */
export function filterNode(ours: JsonNode | undefined): JsonNode | undefined {
  const filter = member(ours, 'filter');
  return textOf(filter) === undefined ? member(filter, 'expression') : filter;
}

/** Fields without which the layer would not look as it does: those of its filter, label and inline styles. */
export function neededFields(ours: JsonNode | undefined, offerings: readonly JsonNode[]): string[] {
  const styles = offerings.flatMap((o) => items(member(o, 'styles'))).flatMap((s) => fieldsOfStyle(textOfStyle(s)));
  return [...new Set([...fieldsOfFilter(textOf(filterNode(ours)) ?? ''), ...fieldsOfLabel(member(ours, 'label')), ...styles])];
}
