import { kindOfAddress } from '../service/service-address.js';
import { member } from '../json/json-tree.js';
import type { TextPatch } from '../json/patch-text.js';
import { geometryKind } from './layer-state.js';
import type { MapFile, MapLayer } from './map-file.js';
import { layerFeature, type NewLayer, type NewService } from './write-map.js';

/** What is drawn over what: points over lines over areas over rasters. What is not known keeps its place. */
export function drawingRank(geometryType: string | null | undefined, isRaster: boolean): number | null {
  if (isRaster) return 3;
  const kind = geometryKind(geometryType ?? null);
  return kind === null || kind === 'mixed' ? null : { point: 0, line: 1, area: 2 }[kind];
}

/** Pictures of servers lie below all else. */
const PICTURE = 3;
const rankOfNew = (l: NewLayer | NewService): number =>
  !('format' in l)
    ? l.code === 'features'
      ? 1
      : PICTURE
    : (drawingRank(l.fingerprint?.geometryType, l.fingerprint?.raster !== null && l.fingerprint?.raster !== undefined) ?? 1);
const isPicture = ({ isService, reference }: MapLayer): boolean =>
  isService && reference !== null && ['wms', 'tiles'].includes(kindOfAddress(reference.href) ?? '');
const rankOfOld = (layer: MapLayer): number | null =>
  isPicture(layer) ? PICTURE : layer.fingerprint && drawingRank(layer.fingerprint.geometryType, layer.fingerprint.raster !== null);

/** New layers in a sensible order, the first drawn on top. */
export const topFirst = <L extends NewLayer | NewService>(layers: readonly L[]): L[] =>
  [...layers].sort((a, b) => rankOfNew(a) - rankOfNew(b));

/**
 * Puts layers into a map file, each above the first layer that it belongs over; the text around them stays byte for byte.
 * @param updated RFC 3339, UTC
 */
export function patchAddLayers(map: MapFile, layers: readonly (NewLayer | NewService)[], updated: string): TextPatch[] {
  const list = member(map.tree, 'features');
  if (list?.kind !== 'array') return [];
  const places = new Map<number, string[]>();
  for (const layer of topFirst(layers)) {
    const below = map.layers.findIndex((l) => (rankOfOld(l) ?? -1) > rankOfNew(layer));
    const at = below < 0 ? map.layers.length : below;
    places.set(at, [
      ...(places.get(at) ?? []),
      print(map.text, layerFeature(layer, updated), indentOf(map.text, list.items[0]?.start ?? list.start)),
    ]);
  }
  return [...places].map(([at, texts]): TextPatch => {
    const gap = gapIn(map.text, list.start, list.items[0]?.start);
    const before = list.items[at];
    const last = list.items.at(-1);
    if (before) return { start: before.start, end: before.start, text: texts.map((t) => `${t},${gap}`).join('') };
    if (last) return { start: last.end, end: last.end, text: texts.map((t) => `,${gap}${t}`).join('') };
    return { start: list.start + 1, end: list.start + 1, text: texts.join(',') };
  });
}

/** The blank text between two items of a list. */
const gapIn = (text: string, listStart: number, firstStart: number | undefined): string =>
  firstStart === undefined ? '' : text.slice(listStart + 1, firstStart) || ' ';

function indentOf(text: string, at: number): string {
  const line = text.lastIndexOf('\n', at) + 1;
  return /^[ \t]*/.exec(text.slice(line, at))![0];
}

/** Over several lines where the file has them. */
function print(text: string, value: unknown, indent: string): string {
  if (!text.trim().includes('\n')) return JSON.stringify(value);
  const unit = /\n([ \t]+)"/.exec(text)?.[1] ?? '  ';
  return JSON.stringify(value, null, unit).replaceAll('\n', `\n${indent}`);
}
