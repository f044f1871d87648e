import { kindOfAddress } from '@rootmap/core';
import type { LayerDataView, MapDocView, MapLayerView, NewLayerView } from '@rootmap/core/contract';
import type { DraftLayer } from '@rootmap/core/contract';

/** What is known of the data of each layer of a draft: those of the file, and those that are not saved yet. */
export interface LayerFacts {
  readonly data: LayerDataView | null;
  /** Null: it is not in the file yet. */
  readonly file: MapLayerView | null;
  readonly fresh: NewLayerView | null;
}

export function factsOfLayer(layer: DraftLayer, doc: MapDocView, fresh: ReadonlyMap<string, NewLayerView>): LayerFacts {
  const file = doc.layers.find((l) => l.id === layer.id) ?? null;
  const added = layer.source === null || file ? null : (fresh.get(layer.source) ?? null);
  return { data: file ?? added, file, fresh: added };
}

/** Short words on what a layer is not plainly: its look, labels, filter, another CRS. */
export function layerWords(layer: DraftLayer, { data, file }: LayerFacts, mapCrs: string | null): string[] {
  const words: string[] = [];
  if (layer.look?.kind === 'by-value' || layer.look?.kind === 'by-class') words.push(`by ${layer.look.field}`);
  if (layer.look?.kind === 'rules') words.push(`${layer.look.rules.length} rules`);
  if (layer.label) words.push(`labels: ${layer.label.template.replace(/^\{([^{}]+)\}$/, '$1')}`);
  if (layer.filter.trim() !== '') words.push(`filter: ${layer.filter.trim()}`);
  if (layer.minScale !== null || layer.maxScale !== null) words.push('by scale');
  if (data?.kind === 'raster' && data.pixel)
    words.push(`raster, ${round(data.pixel[0])} ${data.crs && /^EPSG:4326$/.test(data.crs) ? '°' : 'm'} pixels`);
  if (data?.isPlaced && mapCrs && data.crs !== mapCrs) words.push(`reprojected from ${data.crs ?? data.crsName ?? 'a CRS of its own'}`);
  if (file?.reach === 'service' && file.href !== null) words.push(SERVICE_WORDS[kindOfAddress(file.href) ?? 'none']);
  else if (data && !data.isPlaced && data.kind !== 'table') words.push('CRS not known');
  if (file?.style.state === 'adrift') words.push('its style is missing: drawn plainly');
  if (file?.style.state === 'unreadable') words.push('its style cannot be read: drawn plainly');
  if ((file?.style.missing.length ?? 0) > 0) words.push(`${file!.style.missing.length} pictures missing`);
  return words;
}
const SERVICE_WORDS = {
  wms: 'picture by a server',
  tiles: 'tiles by a server',
  features: 'records of a server',
  none: 'a server',
} as const;
const round = (n: number): string => String(Number(n.toPrecision(3)));
