import type { StoredForm } from '../address/reference.js';
import { parseFingerprint, type Fingerprint } from '../dataset/fingerprint.js';
import { items, member, parseJsonTree, textOf, toValue, type JsonNode } from '../json/json-tree.js';
import { done, fail, type Result } from '../problem.js';
import { neededFields } from './needed-fields.js';

/** One address in the text of a map file: every token that states it (`href`, and `url` where a writer used that). */
export interface MapReference {
  readonly href: string;
  readonly nodes: readonly JsonNode[];
  readonly role: 'content' | 'operation' | 'style' | 'working';
}

export interface MapLayer {
  /** The feature's own id, or `#n` (position from 0) where it is missing or repeated. */
  readonly id: string;
  readonly index: number;
  readonly title: string;
  /** Group in the layer stack, as the file has it. */
  readonly folder: string | null;
  /** The first offering's first content, or its first operation; null: the layer records no source. */
  readonly reference: MapReference | null;
  /** All others: further contents, operations, style files. */
  readonly others: readonly MapReference[];
  readonly fingerprint: Fingerprint | null;
  /** Evidence that the layer came through a linked folder. */
  readonly link: { readonly name: string; readonly path: string } | null;
  /** Fields that style, label or filter need. */
  readonly needs: readonly string[];
  readonly isService: boolean;
  readonly node: JsonNode;
  /** `code` of the first offering and `type` of its first content, where they stand. */
  readonly codeNode: JsonNode | undefined;
  readonly typeNode: JsonNode | undefined;
}

export interface MapFile {
  readonly file: string;
  readonly text: string;
  readonly tree: JsonNode;
  readonly title: string;
  /** What the map itself asks for; null: the project's setting counts. */
  readonly storedForm: StoredForm | null;
  readonly layers: readonly MapLayer[];
  /** The geodatabase that results of this map go to, a reference like any other; null: that of the project. */
  readonly working: MapReference | null;
}

/** Reads a map file: OGC OWS Context, GeoJSON encoding (OGC 14-055r2). First layer is drawn on top. Never throws. */
export function parseMapFile(file: string, text: string): Result<MapFile> {
  const tree = parseJsonTree(file, text);
  if (!tree.ok) return tree;
  const root = tree.value;
  if (textOf(member(root, 'type')) !== 'FeatureCollection')
    return fail({ code: 'wrong-shape', file, member: 'type', expected: '"FeatureCollection"' });
  const features = member(root, 'features');
  if (features?.kind !== 'array') return fail({ code: 'wrong-shape', file, member: 'features', expected: 'a list' });
  const unique = uniqueIds(features.items.map(idOf));
  const properties = member(root, 'properties');
  const ours = member(properties, 'rootmap') ?? member(root, 'rootmap');
  const form = textOf(member(ours, 'storedForm'));
  return done({
    file,
    text,
    tree: root,
    title: textOf(member(properties, 'title')) ?? textOf(member(root, 'title')) ?? '',
    storedForm: form === 'relative' || form === 'absolute' ? form : null,
    layers: features.items.map((f, i) => readLayer(f, i, unique)),
    working: workingOf(member(ours, 'workingGeodatabase')),
  });
}

function workingOf(node: JsonNode | undefined): MapReference | null {
  const href = textOf(node);
  return node && href ? { href, nodes: [node], role: 'working' } : null;
}

function idOf(feature: JsonNode): string | null {
  const id = member(feature, 'id');
  return id?.kind === 'scalar' && (typeof id.value === 'string' || typeof id.value === 'number') ? String(id.value) : null;
}

function uniqueIds(ids: readonly (string | null)[]): ReadonlySet<string> {
  const [unique, repeated] = [new Set<string>(), new Set<string>()];
  for (const id of ids) if (id) (unique.has(id) ? repeated : unique).add(id);
  for (const id of repeated) unique.delete(id);
  return unique;
}

function readLayer(feature: JsonNode, index: number, uniqueIds: ReadonlySet<string>): MapLayer {
  const properties = member(feature, 'properties');
  const own = idOf(feature);
  const id = own !== null && uniqueIds.has(own) ? own : `#${index}`;
  const offerings = items(member(properties, 'offerings'));
  const all = offerings.flatMap(referencesOf);
  const reference = all.find((r) => r.role === 'content') ?? all.find((r) => r.role === 'operation') ?? null;
  const ours = member(properties, 'rootmap') ?? member(feature, 'rootmap');
  const fingerprint = member(ours, 'fingerprint');
  const link = member(ours, 'link');
  const linkName = textOf(member(link, 'name'));
  const linkPath = textOf(member(link, 'path'));
  return {
    id,
    index,
    title: textOf(member(properties, 'title')) ?? '',
    folder: textOf(member(properties, 'folder')) ?? null,
    reference,
    others: all.filter((r) => r !== reference),
    fingerprint: fingerprint ? parseFingerprint(toValue(fingerprint)) : null,
    link: linkName !== undefined && linkPath !== undefined ? { name: linkName, path: linkPath } : null,
    needs: neededFields(ours, offerings),
    isService: reference !== null && (reference.role === 'operation' || /^https?:/i.test(reference.href)),
    node: feature,
    codeNode: member(offerings[0], 'code'),
    typeNode: member(items(member(offerings[0], 'contents'))[0], 'type'),
  };
}

function referencesOf(offering: JsonNode): MapReference[] {
  const from = (node: JsonNode | undefined, role: MapReference['role']): MapReference[] => {
    const nodes = ['href', 'url'].map((key) => member(node, key)).filter((n) => textOf(n) !== undefined) as JsonNode[];
    return nodes.length ? [{ href: textOf(nodes[0])!, nodes, role }] : [];
  };
  return [
    ...items(member(offering, 'contents')).flatMap((c) => from(c, 'content')),
    ...items(member(offering, 'operations')).flatMap((o) => from(o, 'operation')),
    ...items(member(offering, 'styles')).flatMap((s) => from(member(s, 'content'), 'style')),
  ];
}
