import { member, textOf, toValue, type JsonNode } from '../json/json-tree.js';
import type { TextPatch } from '../json/patch-text.js';
import { inlineStyles } from './map-draft.js';
import type { MapLayer } from './map-file.js';
import { fieldsOfFilter, fieldsOfLabel, fieldsOfStyle, FILTER_TOKEN, filterNode, isFieldToken, STYLE_FIELD } from './needed-fields.js';
import { unescapeXml, escapeXml } from '../xml/xml-text.js';
import { oursOf } from './patch-map.js';

/** New names of fields by their old ones; names that are not in it stay. */
export type FieldNames = ReadonlyMap<string, string>;

/** Which parts of a layer use a field. */
export type FieldUse = 'filter' | 'label' | 'style';

/**
 * The fields that a layer uses, each with the parts that use it, in the order filter, label, style.
 * @param styleFiles texts of the layer's styles that stand in files of their own
 */
export function fieldUses(layer: MapLayer, styleFiles: readonly string[] = []): Map<string, FieldUse[]> {
  const ours = oursOf(layer);
  const uses = new Map<string, FieldUse[]>();
  const note = (fields: readonly string[], use: FieldUse): void => {
    for (const field of fields) uses.set(field, [...new Set([...(uses.get(field) ?? []), use])]);
  };
  note(fieldsOfFilter(textOf(filterNode(ours)) ?? ''), 'filter');
  note(fieldsOfLabel(member(ours, 'label')), 'label');
  for (const text of [...inlineStyles(layer).map((node) => textOf(node)!), ...styleFiles]) note(fieldsOfStyle(text), 'style');
  return uses;
}

/** Patches by which filter, label and inline styles of a layer use other fields; all else stays byte for byte. */
export function patchFields(layer: MapLayer, names: FieldNames): TextPatch[] {
  const ours = oursOf(layer);
  const label = member(ours, 'label');
  const template = textOf(label) === undefined ? member(label, 'template') : label;
  return [
    ...patchNode(filterNode(ours), (text) => renameInFilter(text, names)),
    ...patchNode(member(label, 'field'), (text) => names.get(text) ?? text),
    ...patchNode(template, (text) => renameInTemplate(text, names)),
    ...inlineStyles(layer).flatMap((node) => patchNode(node, (text) => renameInStyle(text, names))),
  ];
}

function patchNode(node: JsonNode | undefined, change: (text: string) => string): TextPatch[] {
  if (!node || typeof toValue(node) !== 'string') return [];
  const before = textOf(node)!;
  const after = change(before);
  return after === before ? [] : [{ start: node.start, end: node.end, text: JSON.stringify(after) }];
}

const PLAIN_NAME = /^[A-Za-z_\u00C0-\uFFFF][A-Za-z0-9_\u00C0-\uFFFF]*$/;

/** In a filter (OGC 21-065r2): a name that is not plain, or reads as a keyword, stands in double quotes. */
export const renameInFilter = (filter: string, names: FieldNames): string =>
  filter.replace(FILTER_TOKEN, (token, quoted: string | undefined, bare: string | undefined, bracket: string | undefined) => {
    if (!isFieldToken(quoted, bare, bracket)) return token;
    const to = names.get(quoted?.replaceAll('""', '"') ?? bare!);
    if (to === undefined) return token;
    return quoted === undefined && PLAIN_NAME.test(to) && isFieldToken(undefined, to, undefined) ? to : `"${to.replaceAll('"', '""')}"`;
  });

export const renameInTemplate = (template: string, names: FieldNames): string =>
  template.replace(/\{([^{}]+)\}/g, (token, field: string) => (names.has(field.trim()) ? `{${names.get(field.trim())!}}` : token));

/** In `PropertyName` and `ValueReference` of a style (SLD 1.0, SE 1.1). */
export const renameInStyle = (text: string, names: FieldNames): string =>
  text.replace(STYLE_FIELD, (token, open: string, field: string, close: string) => {
    const to = names.get(unescapeXml(field.trim()));
    return to === undefined ? token : `${open}${escapeXml(to)}${close}`;
  });
