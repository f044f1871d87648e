import type { Place } from '@rootmap/core';
import type { KnownProject } from '../move/known-maps.js';
import { reachedPaths } from '../move/reached-path.js';

/** Real paths of all data that layers name, and how many layers name each; a table counts for its file. */
export function usedPaths(projects: readonly KnownProject[], places: readonly Place[]): Map<string, number> {
  const reached = reachedPaths(places);
  const used = new Map<string, number>();
  for (const map of projects.flatMap((p) => p.maps))
    for (const layer of map.file.layers) {
      const all = layer.reference ? [layer.reference, ...layer.others] : layer.others;
      const named = new Set(all.flatMap((r) => reached(map.location, r.href)?.path ?? []));
      for (const path of named) used.set(path, (used.get(path) ?? 0) + 1);
    }
  return used;
}

/** How many layers draw a dataset. @param isOnly it is the only table of its file: who names no table means it */
export type UsesOf = (data: { readonly path: string; readonly table: string | null }, isOnly: boolean) => number;

/** How many layers draw each dataset: of a file with several tables, each table for itself. */
export function usesOfData(projects: readonly KnownProject[], places: readonly Place[]): UsesOf {
  const reached = reachedPaths(places);
  /** Layers by what they name; a table that nobody names is ''. */
  const uses = new Map<string, Map<string, Set<object>>>();
  for (const map of projects.flatMap((p) => p.maps))
    for (const layer of map.file.layers)
      for (const { href } of layer.reference ? [layer.reference, ...layer.others] : layer.others) {
        const at = reached(map.location, href);
        if (!at) continue;
        const tables = uses.get(at.path) ?? new Map<string, Set<object>>();
        const table = at.reference.fragment ?? '';
        uses.set(at.path, tables.set(table, (tables.get(table) ?? new Set()).add(layer)));
      }
  return ({ path, table }, isOnly) => {
    const tables = uses.get(path);
    if (!tables) return 0;
    const named = table === null ? [...tables.values()] : [tables.get(table), isOnly ? tables.get('') : undefined];
    return new Set(named.flatMap((layers) => [...(layers ?? [])])).size;
  };
}

/** Every dataset that layers name, once: its real path, and its table where the layer names one. */
export function usedData(projects: readonly KnownProject[], places: readonly Place[]): { path: string; table: string | null }[] {
  const reached = reachedPaths(places);
  const used = new Map<string, { path: string; table: string | null }>();
  for (const map of projects.flatMap((p) => p.maps))
    for (const layer of map.file.layers)
      for (const { href } of layer.reference ? [layer.reference, ...layer.others] : layer.others) {
        const at = reached(map.location, href);
        if (at) used.set(`${at.path}#${at.reference.fragment ?? ''}`, { path: at.path, table: at.reference.fragment });
      }
  return [...used.values()];
}
