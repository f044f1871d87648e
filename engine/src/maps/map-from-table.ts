import { randomUUID } from 'node:crypto';
import {
  formatOf,
  judgeLayer,
  locate,
  locateHere,
  parseAddress,
  parseMapFile,
  must,
  readLayerTable,
  storeReference,
  toFileUri,
  writeMapFile,
  encodeFragment,
  explain,
  type LayerTableRow,
  type Location,
  type NewLayer,
} from '@rootmap/core';
import type { MapFromTableView } from '@rootmap/core/contract';
import { basename, join, toAddress } from '../disk/native-path.js';
import type { PlannedChange } from '../changes/change.js';
import { Looker } from '../survey/look.js';
import { surroundingsOf } from '../project/read-maps.js';
import { locationOf, type RootedScope } from '../project/scope.js';
import { planNewMap } from './plan-new-map.js';
import { newMapPath } from './new-map-path.js';

export interface TableMapPlan extends MapFromTableView {
  readonly change: PlannedChange | null;
}

/** A map of what a table of layers names, also of what is not there now: that can be mended. Nothing is written. */
export function planMapFromTable(scope: RootedScope, title: string, text: string, who: string): TableMapPlan {
  const path = newMapPath(scope, title);
  const at = locationOf(path, scope.places);
  const looker = new Looker(scope.places);
  const form = scope.project?.storedForm ?? 'relative';
  const made = readLayerTable(text).map((row) => ({ row, ...layerOf(row, scope, at, form) }));
  const layers = made.flatMap(({ layer }) => (layer ? [layer] : []));
  const updated = new Date().toISOString().replace(/\.\d+Z$/, 'Z');
  const draft = { id: `urn:uuid:${randomUUID()}`, title, updated, storedForm: form };
  const bare = must(parseMapFile(path, writeMapFile({ ...draft, crs: scope.project?.crs ?? null, layers })));
  const surroundings = surroundingsOf(scope, looker);
  const judged = new Map(bare.layers.map((l) => [l.id, judgeLayer(at, l, surroundings)]));
  const known = layers.map((l) => ({ ...l, fingerprint: judged.get(l.id)!.found ?? undefined }));
  const rows = made.map(({ row, layer, why }) => {
    const j = layer ? judged.get(layer.id)! : null;
    return {
      title: row.title,
      path: row.path,
      table: row.table,
      href: layer?.href ?? null,
      state: j?.state ?? null,
      why: why ?? j?.detail ?? j?.reason ?? null,
    };
  });
  if (layers.length === 0) return { rows, map: null, change: null };
  const { change, map } = planNewMap(scope, title, who, known, scope.project?.crs ?? null, { path });
  return { rows, map, change };
}

function layerOf(
  row: LayerTableRow,
  scope: RootedScope,
  map: Location,
  form: 'relative' | 'absolute',
): { layer: NewLayer | null; why?: string } {
  const format = formatOf(basename(row.path.replaceAll('\\', '/')));
  if (format === null || format === 'document' || format === 'opaque')
    return { layer: null, why: `files that end in "${/\.[^.\\/]*$/.exec(row.path)?.[0] ?? ''}" are no data that a layer can show` };
  const href = hrefOf(row, scope, map, form);
  return 'why' in href
    ? { layer: null, why: href.why }
    : { layer: { id: `urn:uuid:${randomUUID()}`, title: row.title, format, href: href.href } };
}

/** A path is as people write it: from the root, or absolute in the manner of any system. */
function hrefOf(row: LayerTableRow, scope: RootedScope, map: Location, form: 'relative' | 'absolute'): { href: string } | { why: string } {
  const isAbsolute = /^([A-Za-z]:[\\/]|[\\/]|file:)/i.test(row.path);
  if (!isAbsolute) {
    const target = locateHere(toAddress(join(scope.root, row.path.replaceAll('\\', '/'))), scope.places);
    return target ? storeReference(map, target, row.table, form, scope.places) : { why: 'it leads out of every place' };
  }
  const parsed = parseAddress(row.path);
  if (!parsed.ok) return { why: explain(parsed.problem) };
  const target = locate(parsed.value, scope.places);
  if (target) return storeReference(map, target, row.table, form, scope.places);
  return { href: row.table === null ? toFileUri(parsed.value) : `${toFileUri(parsed.value)}#${encodeFragment(row.table)}` };
}
