import type { StoredForm } from '../address/reference.js';
import { items, member, textOf, toValue, type JsonNode } from '../json/json-tree.js';
import { PLACEMENTS, PLAIN_LABEL, RESAMPLINGS, type Label, type Look, type RasterLook, type Resampling } from '../look/look.js';
import { geometryKind } from './layer-state.js';
import type { MapFile, MapLayer } from './map-file.js';

/** What a person edits of a map. Nothing here says where data is: references are written when it is saved. */
export interface MapDraft {
  readonly title: string;
  readonly summary: string;
  readonly crs: string | null;
  /** Null: as the project has it. */
  readonly storedForm: StoredForm | null;
  /** Where it opens: middle in the map's CRS, x east, and 1:n; null: at all of its layers. */
  readonly view: MapViewpoint | null;
  /** Places to come back to, by name. */
  readonly views: readonly NamedView[];
  /** The first is drawn on top. */
  readonly layers: readonly DraftLayer[];
}
export interface MapViewpoint {
  readonly center: readonly [number, number];
  readonly scale: number;
}
export interface NamedView {
  readonly name: string;
  /** Degrees of WGS 84, longitude first: good in whatever CRS the map has later. */
  readonly at: readonly [longitude: number, latitude: number];
  readonly scale: number;
}
export interface DraftLayer {
  readonly id: string;
  readonly title: string;
  /** Name of its group, `/` between nested ones; null: none. */
  readonly folder: string | null;
  readonly active: boolean;
  /** 0 to 1. */
  readonly opacity: number;
  /** It is drawn from 1:minScale to 1:maxScale; null: no limit. */
  readonly minScale: number | null;
  readonly maxScale: number | null;
  /** CQL2 text; '' draws every record. */
  readonly filter: string;
  readonly label: Label | null;
  /** Null: no look is written down, it is drawn plainly. */
  readonly look: Look | null;
  /** Id of the dataset that a new layer shows; null: the file says where its data is. */
  readonly source: string | null;
}

/** What a layer's first style is: written into the map, or a file of its own. */
export type StyleOfLayer =
  { readonly kind: 'none' } | { readonly kind: 'inline'; readonly text: string } | { readonly kind: 'file'; readonly href: string };

const oursOfMap = (map: MapFile): JsonNode | undefined => member(member(map.tree, 'properties'), 'rootmap') ?? member(map.tree, 'rootmap');
const oursOfLayer = (layer: MapLayer): JsonNode | undefined =>
  member(member(layer.node, 'properties'), 'rootmap') ?? member(layer.node, 'rootmap');

const numberAt = (node: JsonNode | undefined): number | null =>
  node?.kind === 'scalar' && typeof node.value === 'number' && Number.isFinite(node.value) ? node.value : null;

/** Either spelling of a scale limit; the one in the file is the one that is written again. */
const SCALE_KEYS = {
  min: ['minscaledenominator', 'minScaleDenominator'],
  max: ['maxscaledenominator', 'maxScaleDenominator'],
} as const;
export const scaleKey = (layer: JsonNode, limit: 'min' | 'max'): string =>
  SCALE_KEYS[limit].find((k) => member(member(layer, 'properties'), k)) ?? SCALE_KEYS[limit][0];

/** The first style of the first offering. */
export function styleOf(layer: MapLayer): StyleOfLayer {
  const offering = items(member(member(layer.node, 'properties'), 'offerings'))[0];
  const content = member(items(member(offering, 'styles'))[0], 'content');
  const href = textOf(member(content, 'href')) ?? textOf(member(content, 'url'));
  if (href !== undefined) return { kind: 'file', href };
  const text = textOf(content) ?? textOf(member(content, 'content'));
  return text === undefined ? { kind: 'none' } : { kind: 'inline', text };
}

/** Where the texts of styles stand that a layer has in the map itself. */
export const inlineStyles = (layer: MapLayer): JsonNode[] =>
  items(member(member(layer.node, 'properties'), 'offerings'))
    .flatMap((offering) => items(member(offering, 'styles')))
    .map((style) => member(style, 'content'))
    .map((content) => (textOf(content) === undefined ? member(content, 'content') : content))
    .filter((node): node is JsonNode => textOf(node) !== undefined);

/**
 * A map as it is edited. Looks are those that styles were read as.
 * @param lookOf the look of each layer, by its id
 */
export function draftOf(map: MapFile, lookOf: (layer: MapLayer) => Look | null, labelOf: (layer: MapLayer) => Label | null): MapDraft {
  const properties = member(map.tree, 'properties');
  return {
    title: map.title,
    summary: textOf(member(properties, 'abstract')) ?? '',
    crs: textOf(member(oursOfMap(map), 'crs')) ?? null,
    storedForm: map.storedForm,
    view: viewOf(member(oursOfMap(map), 'view')),
    views: items(member(oursOfMap(map), 'views')).flatMap((node) => {
      const [name, view] = [textOf(member(node, 'name')), pointAndScale(node, 'at')];
      return name !== undefined && view ? [{ name, at: view.point, scale: view.scale }] : [];
    }),
    layers: map.layers.map((layer): DraftLayer => {
      const own = member(layer.node, 'properties');
      const ours = oursOfLayer(layer);
      const filter = member(ours, 'filter');
      const active = member(own, 'active');
      return {
        id: layer.id,
        title: layer.title,
        folder: layer.folder,
        active: !(active?.kind === 'scalar' && active.value === false),
        opacity: Math.min(1, Math.max(0, numberAt(member(ours, 'opacity')) ?? 1)),
        minScale: numberAt(member(own, scaleKey(layer.node, 'min'))),
        maxScale: numberAt(member(own, scaleKey(layer.node, 'max'))),
        filter: textOf(filter) ?? textOf(member(filter, 'expression')) ?? '',
        label: readLabel(member(ours, 'label'), layer.fingerprint?.geometryType ?? null) ?? labelOf(layer),
        look: withOurs(lookOf(layer), ours),
        source: null,
      };
    }),
  };
}

/** A style has no place for these: they stand beside it. */
export interface BesideStyle {
  readonly nodata: number | null;
  readonly resampling: Resampling;
  /** Of bands that are drawn together; that of one band stands in its colour map. */
  readonly stretch: RasterLook['stretch'];
}

function withOurs(look: Look | null, ours: JsonNode | undefined): Look | null {
  if (look?.kind !== 'raster') return look;
  const resampling = RESAMPLINGS.find((r) => r === textOf(member(ours, 'resampling'))) ?? 'nearest';
  const [from, to] = items(member(ours, 'stretch')).map(numberAt);
  const stretch = look.bands && typeof from === 'number' && typeof to === 'number' ? { from, to } : look.stretch;
  return { ...look, stretch, resampling, nodata: numberAt(member(ours, 'nodata')) ?? look.nodata };
}

function viewOf(node: JsonNode | undefined): MapViewpoint | null {
  const view = pointAndScale(node, 'center');
  return view && { center: view.point, scale: view.scale };
}

function pointAndScale(node: JsonNode | undefined, name: string): { point: [number, number]; scale: number } | null {
  const [x, y] = items(member(node, name)).map(numberAt);
  const scale = numberAt(member(node, 'scale'));
  return typeof x === 'number' && typeof y === 'number' && scale !== null && scale > 0 ? { point: [x, y], scale } : null;
}

/** Where a label stands that does not say it: beside a point, along a line, over an area. */
export const usualPlacement = (kind: string | null): Label['placement'] =>
  kind === 'point' ? 'right' : kind === 'line' ? 'along' : 'over';

/** A label as it is written, or in the short forms: a template, or a field alone. */
function readLabel(node: JsonNode | undefined, geometryType: string | null): Label | null {
  const field = textOf(member(node, 'field'));
  const template = textOf(node) ?? textOf(member(node, 'template')) ?? (field === undefined ? undefined : `{${field}}`);
  if (template === undefined || template === '') return null;
  const given = node?.kind === 'object' ? (toValue(node) as Partial<Label>) : {};
  const placement = PLACEMENTS.find((p) => p === given.placement) ?? usualPlacement(geometryKind(geometryType));
  const size = typeof given.size === 'number' && given.size > 0 ? given.size : PLAIN_LABEL.size;
  const colour = typeof given.colour === 'string' ? given.colour : PLAIN_LABEL.colour;
  return { template, size, colour, halo: given.halo === undefined ? PLAIN_LABEL.halo : given.halo, placement };
}
