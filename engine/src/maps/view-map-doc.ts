import { createHash } from 'node:crypto';
import { datasetId, draftOf, isBelow, ProblemError, type MapDraft } from '@rootmap/core';
import type { MapCrsView, MapDocView, MapLayerView } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { definitionOf } from '../crs/definitions.js';
import { crsNamed } from '../crs/search-crs.js';
import { Looker } from '../survey/look.js';
import { layerKey } from '../project/layer-row.js';
import { readMaps, type MapSeen } from '../project/read-maps.js';
import { linkLocations, type RootedScope } from '../project/scope.js';
import { layerData, NO_DATA } from './layer-data.js';
import { layerStyle, type LayerStyle } from '../project/layer-styles.js';
import { shownPath } from '../project/shown-path.js';

export const hashOfBytes = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** A map with all that is known of it: what a save starts from. */
export interface MapDoc {
  readonly seen: MapSeen;
  readonly looker: Looker;
  readonly styles: ReadonlyMap<string, LayerStyle>;
  readonly draft: MapDraft;
}

/** @param map path of the map file from the root. Throws `not-found`. */
export async function readMapDoc(scope: RootedScope, map: string): Promise<MapDoc> {
  const looker = new Looker(scope.places);
  const path = join(scope.root, map);
  const seen = readMaps({ ...scope, maps: [path], named: path }, looker).maps[0];
  if (!seen) throw new ProblemError({ code: 'not-found', what: 'map', id: map });
  const styles = new Map<string, LayerStyle>();
  for (const { layer, judgement } of seen.layers)
    styles.set(
      layer.id,
      await layerStyle(
        layer,
        seen.location,
        scope,
        judgement.found?.fields?.map(([name, type]) => ({ name, type: type as 'text' })) ?? null,
      ),
    );
  const draft = draftOf(
    seen.file,
    (l) => styles.get(l.id)!.look,
    (l) => styles.get(l.id)!.label,
  );
  return { seen, looker, styles, draft };
}

export function viewMapDoc(scope: RootedScope, map: string, { seen, looker, styles, draft }: MapDoc): Omit<MapDocView, 'kept' | 'others'> {
  const links = linkLocations(scope);
  const layers = seen.layers.map((l): MapLayerView => {
    const { layer, judgement: j } = l;
    const looked = j.location && !['absent', 'adrift', 'unreadable'].includes(j.state) ? looker.look(j.location, j.table) : null;
    const data =
      looked?.dataset && looked.folder !== null
        ? layerData(datasetId(join(looked.folder, looked.dataset.group.path), looked.dataset.table), looked.dataset)
        : NO_DATA;
    return {
      ...data,
      id: layer.id,
      key: layerKey(seen, l),
      href: layer.reference?.href ?? null,
      stored: j.stored,
      reach: j.reach,
      state: j.state,
      reason: j.reason ?? null,
      detail: j.detail ?? null,
      shownResolved: j.location && j.resolved ? shownPath(j.resolved, scope) + (j.table === null ? '' : `#${j.table}`) : j.resolved,
      link: j.location ? (links.find((k) => isBelow(k.location, j.location!, scope.places))?.name ?? null) : null,
      style: styles.get(layer.id)!.view,
    };
  });
  return { path: map, base: hashOfBytes(seen.bytes), draft, layers, crs: draft.crs === null ? null : mapCrs(draft.crs) };
}

/** Name, unit and definition of a CRS; null: it is not known here. */
export function mapCrs(code: string): MapCrsView | null {
  const crs = crsNamed(code);
  return crs && { ...crs, proj4: definitionOf(code)?.proj4 ?? null };
}
