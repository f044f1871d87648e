import type { MendProjectView } from '@rootmap/core/contract';

/** What is wrong in one map alone; everything where that map is not named, or nothing in it is wrong any longer. */
export function ofMap(view: MendProjectView, map: string | null): MendProjectView {
  if (map === null || !view.layers.some((l) => l.map === map)) return view;
  return { ...view, layers: view.layers.filter((l) => l.map === map), styles: view.styles.filter((s) => s.map === map) };
}

/** The maps in which something is wrong, by title. */
export function mapsOf(view: MendProjectView): { path: string; title: string; layers: number }[] {
  const maps = new Map<string, { path: string; title: string; layers: number }>();
  for (const l of view.layers) {
    const map = maps.get(l.map) ?? { path: l.map, title: l.mapTitle, layers: 0 };
    map.layers++;
    maps.set(l.map, map);
  }
  return [...maps.values()].sort((a, b) => a.title.localeCompare(b.title));
}
