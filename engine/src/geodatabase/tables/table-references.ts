import { join } from 'node:path';
import {
  parseReference,
  patchReference,
  patchText,
  placeNamed,
  resolveIn,
  storeReference,
  type MapReference,
  type Place,
  type TextPatch,
} from '@rootmap/core';
import type { PlannedWrite } from '../../changes/change.js';
import { actualLocations } from '../../move/actual-locations.js';
import type { KnownMap, KnownProject } from '../../move/known-maps.js';
import { writeMap, type ReferenceRow } from '../../move/plan-move.js';
import { pathOf } from '../../places/places.js';
import { locationOf } from '../../project/scope.js';

/** A reference of a layer to a table. */
export interface TableReference {
  readonly map: KnownMap;
  readonly layer: string;
  readonly title: string;
  readonly reference: MapReference;
  readonly storedForm: 'relative' | 'absolute';
  /** Real path of the container. */
  readonly path: string;
  /** As the reference has it; null: the only table inside. */
  readonly table: string | null;
}

/** All references of known maps into geodatabases. */
export function tableReferences(projects: readonly KnownProject[], places: readonly Place[]): TableReference[] {
  const actual = actualLocations(places);
  const found: TableReference[] = [];
  for (const map of projects.flatMap((p) => p.maps))
    for (const layer of map.file.layers)
      for (const reference of layer.reference ? [layer.reference, ...layer.others] : layer.others) {
        if (!/\.gpkg(#|$)/i.test(reference.href)) continue;
        const parsed = parseReference(reference.href);
        if (!parsed.ok || parsed.value.kind === 'service') continue;
        const target = resolveIn(map.location, parsed.value, places);
        if (target === 'above-root' || 'flavour' in target) continue;
        const real = actual(target);
        const path = join(pathOf(placeNamed(places, real.place)!), ...real.segments);
        const { fragment: table, kind: storedForm } = parsed.value;
        found.push({ map, layer: layer.id, title: layer.title, reference, storedForm, path, table });
      }
  return found;
}

export interface TableAt {
  readonly path: string;
  readonly table: string;
}

/** What becomes of the references to tables that go elsewhere or get another name. Each keeps its stored form. */
export function followTables(
  references: readonly TableReference[],
  to: (reference: TableReference) => TableAt | null,
  places: readonly Place[],
): { readonly writes: readonly PlannedWrite[]; readonly rows: readonly ReferenceRow[] } {
  const patches = new Map<KnownMap, TextPatch[]>();
  const rows: ReferenceRow[] = [];
  for (const r of references) {
    const now = to(r);
    if (!now || (now.path === r.path && now.table === r.table)) continue;
    const { href } = storeReference(r.map.location, locationOf(now.path, places), now.table, r.storedForm, places);
    patches.set(r.map, [...(patches.get(r.map) ?? []), ...patchReference(r.reference, href)]);
    rows.push({ map: r.map.path, layer: r.layer, title: r.title, before: r.reference.href, after: href });
  }
  return { writes: [...patches].map(([map, all]) => writeMap(map, patchText(map.file.text, all))), rows };
}
