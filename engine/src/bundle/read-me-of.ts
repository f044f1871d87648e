import { folderOf, formatOf, topOf, nameOf, withoutSecrets, type ReadMe } from '@rootmap/core';
import { keeperOf, Origins } from '../folders/origins.js';
import { basename, isAbsolute } from '../disk/native-path.js';
import type { PackPlan } from './pack-plan.js';
import { toldPath } from './told-path.js';

/** What the read-me of a bundle says, gathered from what goes in. */
export function readMeOf(plan: PackPlan): ReadMe {
  const { scope, payload } = plan;
  const origins = new Origins(keeperOf(scope));
  const folders = new Map<string, { files: number; bytes: number }>();
  for (const { to, bytes } of payload) {
    const top = topOf(folderOf(to));
    const known = folders.get(top) ?? { files: 0, bytes: 0 };
    folders.set(top, { files: known.files + 1, bytes: known.bytes + bytes });
  }
  const layersByMap = new Map<string, string[]>();
  for (const layer of plan.layers) layersByMap.set(layer.map, [...(layersByMap.get(layer.map) ?? []), layer.title]);
  const titles = new Map(plan.maps.map((m) => [m.path, m.title]));
  const pictures = new Map(
    plan.pages.flatMap(({ map, drawn, file }) =>
      drawn && file ? [[map, { path: file.to, day: new Date(drawn.ms).toISOString().slice(0, 10), without: drawn.without }] as const] : [],
    ),
  );
  return {
    title: scope.project?.title ?? basename(scope.root),
    summary: scope.project?.summary ?? '',
    method: scope.project?.method ?? '',
    crs: scope.project?.crs ?? null,
    maps: payload
      .filter((f) => f.source !== null && titles.has(f.source))
      .map((f) => ({
        path: f.to,
        title: titles.get(f.source!)!,
        layers: layersByMap.get(f.source!) ?? [],
        picture: pictures.get(f.source!) ?? null,
      })),
    folders: [...folders].sort(([a], [b]) => (a < b ? -1 : 1)).map(([path, f]) => ({ path, ...f })),
    data: [
      ...gatheredData(plan, origins),
      ...payload.flatMap((f) => {
        const format = formatOf(nameOf(f.to));
        if (f.source === null || !f.isMain || f.to === plan.gathered?.path || format === null || format === 'document') return [];
        const all = origins.allOf(f.source);
        const told = all.length > 0 ? all : [{ table: null, origin: null }];
        return told.map(({ table, origin }) => ({
          path: f.to,
          table,
          origin,
          isUsed: f.uses.length > 0,
          cameFrom: f.from === 'along' ? toldPath(f.source!, scope) : null,
        }));
      }),
    ],
    services: [
      ...new Map(plan.services.map((s) => [s.title + s.address, { title: s.title, address: withoutSecrets(s.address) }])).values(),
    ],
    toFetch: plan.toFetch.map(({ path, address, bytes, sums }) => ({ path, address, bytes, sha256: sums?.[0]?.hash.slice(7) ?? '' })),
    notCarried: plan.leftOut.map((l) => ({ ...l, path: isAbsolute(l.path) ? toldPath(l.path, scope) : l.path })),
  };
}

const gatheredData = ({ gathered, scope }: PackPlan, origins: Origins): ReadMe['data'] =>
  (gathered?.tables ?? []).map((t) => ({
    path: gathered!.path,
    table: t.name,
    origin: origins.of(t.main, t.table),
    isUsed: true,
    cameFrom: toldPath(t.main, scope),
  }));
