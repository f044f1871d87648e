import { items, member, textOf, type JsonNode } from '../json/json-tree.js';

const KEYWORDS = new Set('and or not in like ilike is null between true false'.split(' '));

/** Field names that a filter expression mentions: bare or double-quoted names that are no keyword and no function. */
export function fieldsOfFilter(filter: string): string[] {
  const found = new Set<string>();
  const token = /'(?:[^']|'')*'|"((?:[^"]|"")+)"|([\p{L}_][\p{L}\p{N}_]*)(\s*\()?/gu;
  for (const m of filter.matchAll(token)) {
    if (m[1] !== undefined) found.add(m[1].replaceAll('""', '"'));
    else if (m[2] !== undefined && !m[3] && !KEYWORDS.has(m[2].toLowerCase())) found.add(m[2]);
  }
  return [...found];
}

/** Names between braces of a label template; a label can also be `{"field": name}`. */
function fieldsOfLabel(label: JsonNode | undefined): string[] {
  const field = textOf(member(label, 'field'));
  if (field !== undefined) return [field];
  const template = textOf(label) ?? textOf(member(label, 'template')) ?? '';
  return [...template.matchAll(/\{([^{}]+)\}/g)].map((m) => m[1]!.trim());
}

/** `PropertyName` and `ValueReference` of a style (SLD 1.0, SE 1.1). */
export const fieldsOfStyle = (text: string): string[] =>
  [...text.matchAll(/<(?:\w+:)?(?:PropertyName|ValueReference)>([^<]+)</g)].map((m) => m[1]!.trim());

const textOfStyle = (style: JsonNode): string =>
  textOf(member(style, 'content')) ?? textOf(member(member(style, 'content'), 'content')) ?? '';

/** Fields without which the layer would not look as it does: those of its filter, label and inline styles. */
export function neededFields(ours: JsonNode | undefined, offerings: readonly JsonNode[]): string[] {
  const filter = member(ours, 'filter');
  const expression = textOf(filter) ?? textOf(member(filter, 'expression')) ?? '';
  const styles = offerings.flatMap((o) => items(member(o, 'styles'))).flatMap((s) => fieldsOfStyle(textOfStyle(s)));
  return [...new Set([...fieldsOfFilter(expression), ...fieldsOfLabel(member(ours, 'label')), ...styles])];
}
