import { folderOf, nameOf, rewriteStyleForBundle, styleOf, type BundleTarget } from '@rootmap/core';
import type { MapSeen } from '../project/read-maps.js';

/**
 * Looks that stand in maps, as files (SLD) beside the data that they are for: by path in the bundle. Where several layers draw
 * the same data, each has one named for its layer.
 *
 * @param dataOf where a layer's data stands in the bundle; null: it does not travel
 * @param inBundle where the file stands that a map's reference means; null: it does not travel
 */
export function looksBeside(
  maps: readonly MapSeen[],
  dataOf: (map: MapSeen, layer: string) => string | null,
  inBundle: (map: MapSeen, href: string) => BundleTarget | null,
  isTaken: (path: string) => boolean,
): Map<string, string> {
  const looks = new Map<string, string>();
  for (const map of maps)
    for (const { layer, judgement } of map.layers) {
      const style = styleOf(layer);
      const data = dataOf(map, layer.id);
      if (style.kind !== 'inline' || data === null) continue;
      const path = freePath(data, judgement.table, layer.title, (p) => isTaken(p) || looks.has(p));
      looks.set(path, rewriteStyleForBundle(style.text, path, (href) => inBundle(map, href)) ?? style.text);
    }
  return looks;
}

function freePath(data: string, table: string | null, title: string, isTaken: (path: string) => boolean): string {
  const folder = folderOf(data);
  const stem = nameOf(data).replace(/\.[^.]*$/, '');
  const inFolder = (name: string): string => (folder === '' ? '' : `${folder}/`) + name.replace(/[\\/:*?"<>|]/g, '_');
  const names = [table === null ? stem : `${stem}_${table}`, `${stem}_${title}`];
  for (let n = 1; ; n++) {
    const name = names[n - 1] ?? `${stem}_${title}_${n}`;
    if (!isTaken(inFolder(`${name}.sld`))) return inFolder(`${name}.sld`);
  }
}
