import { member, parseJsonTree, type JsonNode } from '../json/json-tree.js';
import { patchText } from '../json/patch-text.js';
import { setAt } from '../json/set-at.js';
import { setMember } from '../json/set-member.js';
import { draftOf, scaleKey, type BesideStyle, type DraftLayer, type MapDraft } from './map-draft.js';
import type { MapFile, MapLayer } from './map-file.js';
import { layerFeature, type NewLayer } from './write-map.js';

const SLD = 'application/vnd.ogc.sld+xml';

/** What a save needs to know beside the draft. */
export interface DraftWriting {
  /** The draft that the file is read as: only what differs from it is written. */
  readonly before: MapDraft;
  /** Text of the style of a layer whose look is another one now; null: it has none. */
  readonly styleText: (layer: DraftLayer) => string | null;
  /** New layers, by id. */
  readonly added: (layer: DraftLayer) => NewLayer;
  /** RFC 3339, UTC. */
  readonly updated: string;
}

/**
 * A map's text as a draft has it. Layers that stay keep their bytes but for what was edited; a draft that changes nothing
 * gives the text as it was. Layers that the draft does not have any more are left out.
 */
export function writeDraft(map: MapFile, draft: MapDraft, w: DraftWriting): string {
  const list = member(map.tree, 'features');
  if (list?.kind !== 'array') return map.text;
  const texts = draft.layers.map((l) => featureText(map, l, w));
  const isSameOrder = draft.layers.length === map.layers.length && draft.layers.every((l, i) => map.layers[i]!.id === l.id);
  const text = isSameOrder
    ? patchText(
        map.text,
        map.layers.map(({ node }, i) => ({ start: node.start, end: node.end, text: texts[i]! })),
      )
    : patchText(map.text, [{ start: list.start, end: list.end, text: listText(map.text, list, texts) }]);
  const edited = headText(text, draft, w.before);
  return edited === map.text ? edited : stamped(edited, w.updated);
}

/** The list in the manner of the file: the gap that was before its first item stands before each. */
function listText(text: string, list: JsonNode & { kind: 'array' }, features: readonly string[]): string {
  if (features.length === 0) return '[]';
  const [first] = list.items;
  const isWide = text.trim().includes('\n');
  const lineStart = text.lastIndexOf('\n', list.start) + 1;
  const indent = /^[ \t]*/.exec(text.slice(lineStart, list.start))![0];
  const unit = /\n([ \t]+)"/.exec(text)?.[1] ?? '  ';
  const gap = first ? text.slice(list.start + 1, first.start) : isWide ? `\n${indent}${unit}` : '';
  const end = first ? text.slice(list.items.at(-1)!.end, list.end - 1) : isWide ? `\n${indent}` : '';
  return `[${features.map((f) => gap + f).join(',')}${end}]`;
}

function featureText(map: MapFile, now: DraftLayer, w: DraftWriting): string {
  const index = map.layers.findIndex((l) => l.id === now.id);
  const layer = map.layers[index];
  if (!layer) return newFeature(map, now, w);
  return editFeature(map.text.slice(layer.node.start, layer.node.end), layer, w.before.layers[index]!, now, w);
}

type Setting = readonly [path: readonly string[], value: unknown];

const orNothing = (value: unknown): unknown => (value === null || value === '' ? undefined : value);

function editFeature(text: string, layer: MapLayer, before: DraftLayer, now: DraftLayer, w: DraftWriting): string {
  const ours =
    member(member(layer.node, 'properties'), 'rootmap') || !member(layer.node, 'rootmap') ? ['properties', 'rootmap'] : ['rootmap'];
  const settings: Setting[] = [];
  const when = (isOther: boolean, path: readonly string[], value: unknown): void => void (isOther && settings.push([path, value]));
  when(before.title !== now.title, ['properties', 'title'], now.title);
  when(before.folder !== now.folder, ['properties', 'folder'], orNothing(now.folder));
  when(before.active !== now.active, ['properties', 'active'], now.active);
  when(before.minScale !== now.minScale, ['properties', scaleKey(layer.node, 'min')], orNothing(now.minScale));
  when(before.maxScale !== now.maxScale, ['properties', scaleKey(layer.node, 'max')], orNothing(now.maxScale));
  when(before.opacity !== now.opacity, [...ours, 'opacity'], now.opacity === 1 ? undefined : now.opacity);
  when(before.filter !== now.filter, [...ours, 'filter'], orNothing(now.filter.trim()));
  when(!sameJson(before.label, now.label), [...ours, 'label'], now.label ?? undefined);
  const [was, is] = [besideStyle(before), besideStyle(now)];
  when(was.nodata !== is.nodata, [...ours, 'nodata'], is.nodata ?? undefined);
  when(was.resampling !== is.resampling, [...ours, 'resampling'], is.resampling === 'nearest' ? undefined : is.resampling);
  when(!sameJson(was.stretch, is.stretch), [...ours, 'stretch'], is.stretch ? [is.stretch.from, is.stretch.to] : undefined);
  const edited = settings.reduce((t, [path, value]) => setAt(t, path, value), text);
  if (sameJson(before.look, now.look) && sameJson(before.label, now.label)) return edited;
  return withStyle(edited, now.look === null ? null : w.styleText(now));
}

const besideStyle = ({ look }: DraftLayer): BesideStyle =>
  look?.kind === 'raster'
    ? { nodata: look.nodata, resampling: look.resampling, stretch: look.bands ? look.stretch : null }
    : { nodata: null, resampling: 'nearest', stretch: null };

export const sameJson = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** The first style of the first offering is written into the map; other styles stay. */
function withStyle(text: string, sld: string | null): string {
  const tree = parseJsonTree('', text);
  const offerings = tree.ok ? member(member(tree.value, 'properties'), 'offerings') : undefined;
  const offering = offerings?.kind === 'array' ? offerings.items[0] : undefined;
  if (offering?.kind !== 'object') return text;
  const styles = member(offering, 'styles');
  const first = styles?.kind === 'array' ? styles.items[0] : undefined;
  const style = { name: 'default', title: 'Default', default: true, content: { type: SLD, content: sld } };
  if (sld === null)
    return first && styles?.kind === 'array'
      ? patchText(text, [{ start: first.start, end: styles.items[1]?.start ?? first.end, text: '' }])
      : text;
  if (first?.kind === 'object') return patchText(text, setMember(text, first, 'content', style.content));
  return patchText(text, setMember(text, offering, 'styles', [style]));
}

function newFeature(map: MapFile, now: DraftLayer, w: DraftWriting): string {
  const text = JSON.stringify(layerFeature(w.added(now), w.updated), null, 2);
  const plain = {
    ...now,
    title: w.added(now).title,
    folder: null,
    active: true,
    opacity: 1,
    minScale: null,
    maxScale: null,
    filter: '',
    label: null,
    look: null,
  };
  const layer = layerIn(text);
  const edited = layer ? editFeature(text, layer, plain, now, w) : text;
  if (!map.text.trim().includes('\n')) return JSON.stringify(JSON.parse(edited));
  const [first] = map.layers;
  const lineStart = first ? map.text.lastIndexOf('\n', first.node.start) + 1 : 0;
  const indent = first ? /^[ \t]*/.exec(map.text.slice(lineStart, first.node.start))![0] : '    ';
  return edited.replaceAll('\n', `\n${indent}`);
}

/** A feature alone, as far as it is needed to edit it. */
function layerIn(text: string): MapLayer | null {
  const tree = parseJsonTree('', text);
  return tree.ok ? ({ node: tree.value } as MapLayer) : null;
}

function headText(text: string, draft: MapDraft, before: MapDraft): string {
  const tree = parseJsonTree('', text);
  if (!tree.ok) return text;
  const properties = member(tree.value, 'properties');
  const ours = member(properties, 'rootmap') || !member(tree.value, 'rootmap') ? ['properties', 'rootmap'] : ['rootmap'];
  const title = textIsAtRoot(tree.value, properties) ? ['title'] : ['properties', 'title'];
  const settings: Setting[] = [
    ...(draft.title === before.title ? [] : [[title, draft.title] as const]),
    ...(draft.summary === before.summary ? [] : [[['properties', 'abstract'], draft.summary] as const]),
    ...(draft.crs === before.crs ? [] : [[[...ours, 'crs'], draft.crs] as const]),
    ...(draft.storedForm === before.storedForm ? [] : [[[...ours, 'storedForm'], orNothing(draft.storedForm)] as const]),
    ...(sameJson(draft.views, before.views) ? [] : [[[...ours, 'views'], draft.views.length > 0 ? draft.views : undefined] as const]),
    ...(sameJson(draft.view, before.view) ? [] : [[[...ours, 'view'], orNothing(draft.view)] as const]),
  ];
  return settings.reduce((t, [path, value]) => setAt(t, path, value), text);
}

const textIsAtRoot = (root: JsonNode, properties: JsonNode | undefined): boolean => !member(properties, 'title') && !!member(root, 'title');

/** When it was changed last, where the file says so. */
function stamped(text: string, updated: string): string {
  const tree = parseJsonTree('', text);
  return tree.ok && member(member(tree.value, 'properties'), 'updated') ? setAt(text, ['properties', 'updated'], updated) : text;
}

/** For tests and for saving without looks: what the file says, looks left out. */
export const draftWithoutLooks = (map: MapFile): MapDraft =>
  draftOf(
    map,
    () => null,
    () => null,
  );
