import { patchReference, patchText, storeReference, type MapReference, type Place, type TextPatch } from '@rootmap/core';
import type { PlannedWrite } from '../../changes/change.js';
import type { KnownMap, KnownProject } from '../../move/known-maps.js';
import { writeMap, type ReferenceRow } from '../../move/plan-move.js';
import { reachedPaths } from '../../move/reached-path.js';
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
  const reached = reachedPaths(places);
  const found: TableReference[] = [];
  for (const map of projects.flatMap((p) => p.maps))
    for (const layer of map.file.layers)
      for (const reference of layer.reference ? [layer.reference, ...layer.others] : layer.others) {
        const to = /\.gpkg(#|$)/i.test(reference.href) ? reached(map.location, reference.href) : null;
        if (!to) continue;
        const { fragment: table, kind: storedForm } = to.reference;
        found.push({ map, layer: layer.id, title: layer.title, reference, storedForm, path: to.path, table });
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

/** A reference without a table means the only one inside: where a container is to get a second one, it says which. */
export const nameTheOnly =
  (path: string, tables: readonly string[]) =>
  (r: TableReference): TableAt | null =>
    r.path === path && r.table === null && tables.length === 1 ? { path, table: tables[0]! } : null;
