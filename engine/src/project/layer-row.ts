import { locationKey, type LayerState, type Reach } from '@rootmap/core';
import type { LayerSeen, MapSeen } from './read-maps.js';

/** One layer as commands and the web app show it. */
export interface LayerRow {
  readonly map: string;
  readonly layer: string;
  readonly title: string;
  readonly href: string | null;
  readonly stored: 'relative' | 'absolute' | 'service';
  readonly resolved: string | null;
  readonly table?: string;
  readonly reach: Reach;
  readonly state: LayerState;
  readonly reason?: string;
  readonly detail?: string;
}

export function layerRow(map: MapSeen, seen: LayerSeen): LayerRow {
  const { layer, judgement: j } = seen;
  return {
    map: map.path,
    layer: layer.id,
    title: layer.title,
    href: layer.reference?.href ?? null,
    stored: j.stored,
    resolved: j.resolved,
    ...(j.table === null ? {} : { table: j.table }),
    reach: j.reach,
    state: j.state,
    ...(j.reason === undefined ? {} : { reason: j.reason }),
    ...(j.detail === undefined ? {} : { detail: j.detail }),
  };
}

export const layerKey = (map: MapSeen, seen: LayerSeen): string => `${locationKey(map.location)}\n${seen.layer.id}`;
