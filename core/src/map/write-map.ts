import type { Fingerprint } from '../dataset/fingerprint.js';
import type { Format } from '../dataset/dataset.js';
import { mediaType, offeringCode } from './media-types.js';

export interface NewLayer {
  readonly id: string;
  readonly title: string;
  readonly format: Format;
  readonly href: string;
  readonly folder?: string;
  readonly fingerprint?: Fingerprint;
  readonly label?: unknown;
  readonly filter?: string;
  readonly link?: { readonly name: string; readonly path: string };
}
export interface NewService {
  readonly id: string;
  readonly title: string;
  readonly code: 'wms' | 'features' | 'tiles';
  readonly href: string;
  /** Whose it is, as it has to be said beside it. */
  readonly rights?: string;
  readonly folder?: string;
}
export interface NewMap {
  readonly id: string;
  readonly title: string;
  readonly summary?: string;
  /** RFC 3339, UTC. */
  readonly updated: string;
  readonly crs: string | null;
  readonly storedForm: 'relative' | 'absolute';
  readonly layers: readonly (NewLayer | NewService)[];
}

/** What is asked of a service for a layer; the standard has codes for a WMS only (OGC 14-055r2, 7.1.8). */
const OPERATIONS = {
  wms: { code: 'GetMap', type: 'image/png' },
  features: { code: 'GetFeatures', type: 'application/geo+json' },
  tiles: { code: 'GetTile', type: 'image/png' },
} as const;

const CORE_PROFILE = 'http://www.opengis.net/spec/owc-geojson/1.0/req/core';

/** A new map file as text, members of the standard first. New maps are relative unless asked otherwise. */
export function writeMapFile(map: NewMap): string {
  const value = {
    type: 'FeatureCollection',
    id: map.id,
    properties: {
      lang: 'en',
      title: map.title,
      abstract: map.summary ?? '',
      updated: map.updated,
      links: { profiles: [{ rel: 'profile', href: CORE_PROFILE }] },
      rootmap: { crs: map.crs, storedForm: map.storedForm },
    },
    features: map.layers.map((l) => layerFeature(l, map.updated)),
  };
  return `${JSON.stringify(value, null, 2)}\n`;
}

/** A layer as the feature of a map file. */
export function layerFeature(layer: NewLayer | NewService, updated: string): unknown {
  const offering =
    'format' in layer
      ? { code: offeringCode(layer.format), contents: [{ type: mediaType(layer.format), href: layer.href }] }
      : {
          code: layer.code === 'wms' ? 'http://www.opengis.net/spec/owc-geojson/1.0/req/wms' : `urn:x-rootmap:offering:${layer.code}`,
          operations: [{ ...OPERATIONS[layer.code], method: 'GET', href: layer.href }],
        };
  const ours = 'format' in layer ? { fingerprint: layer.fingerprint, label: layer.label, filter: layer.filter, link: layer.link } : {};
  return {
    type: 'Feature',
    id: layer.id,
    geometry: null,
    properties: {
      title: layer.title,
      updated,
      ...('rights' in layer && layer.rights ? { rights: layer.rights } : {}),
      ...('folder' in layer && layer.folder ? { folder: layer.folder } : {}),
      active: true,
      links: {}, // empty, and there: readers such as OWSLib look into it
      offerings: [offering],
      ...(Object.values(ours).some((v) => v !== undefined) ? { rootmap: ours } : {}),
    },
  };
}
