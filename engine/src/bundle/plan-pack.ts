import {
  byCodePoint,
  folderOfRole,
  groupFiles,
  isInOrder,
  isMapFile,
  isUnsafePath,
  joined,
  ProblemError,
  type FileEntry,
  type FileGroup,
  type SendChoices,
} from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { keeperOf, Origins } from '../folders/origins.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import { layerRow, type LayerRow } from '../project/layer-row.js';
import { readMaps, type MapSeen, type MapsSeen } from '../project/read-maps.js';
import type { RootedScope } from '../project/scope.js';
import { BundleContents } from './bundle-contents.js';
import type { BundleFile, LeftOut } from './bundle-file.js';
import { BundleUnits } from './bundle-units.js';
import { BundleWorld } from './bundle-world.js';
import { checksOf } from './checks.js';
import { chooseFiles } from './choose-files.js';
import { planGathering, type Gathering } from './gather.js';
import { mapPages } from './map-pages.js';
import { needsOfMaps, realOrNull, type Needs, type OutsideThing } from './needs-of-maps.js';
import type { PackPlan } from './pack-plan.js';
import { ALONG, placeFiles, type Unit } from './place-files.js';
import { PACK_ALL, type PackRequest } from './pack-request.js';

/** What a bundle of the project would hold, and how its layers will be on arrival. Reads only. */
export const planPack = (scope: RootedScope, request: Partial<PackRequest> = {}): PackPlan =>
  new Planning(scope, { ...PACK_ALL, ...request }).plan();

class Planning {
  private readonly leftOut: LeftOut[] = [];
  private readonly origins: Origins;
  private readonly folders: Readonly<Record<string, string>>;
  private readonly units: BundleUnits;

  constructor(
    private readonly scope: RootedScope,
    private readonly request: PackRequest,
  ) {
    if (!scope.root) throw new ProblemError({ code: 'wrong-use', message: 'A bundle is made of a project folder. Name the folder.' });
    this.origins = new Origins(keeperOf(scope));
    this.folders = scope.project?.folders ?? {};
    this.units = new BundleUnits(scope, request, this.origins, (things) => this.leftOut.push(...things));
  }

  plan(): PackPlan {
    const { scope, request } = this;
    const { choices } = request;
    const files = this.units.list();
    const groups = new Map(
      groupFiles(files).groups.flatMap((g) => [g.main, ...g.companions, ...g.borrowed].map((f) => [f.path, g] as const)),
    );
    const isWanted = (map: string): boolean => (choices.layer ? choices.layer.map === map : (choices.maps?.includes(map) ?? true));
    const maps = files.map((f) => f.path).filter((p) => isMapFile(p) && isWanted(p));
    const seen = this.onlyLayer(readMaps({ ...scope, named: scope.root, maps: maps.map((m) => join(scope.root, m)) }));
    const needs = needsOfMaps(seen.maps, (path) => groupOf(path, groups), scope);
    this.leftOut.push(...needs.lost);
    const { chosen, leftOut } = chooseFiles(files, needs.inside, this.folders, choices);
    this.leftOut.push(...leftOut);
    const units = this.units.inside(chosen, groups);
    const { kept, fetchable } = this.units.leaveFetchable(units);
    const brought = needs.outside.filter((t) => this.units.comesAlong(t) && t.files.length > 0);
    const gathering = choices.gathers ? planGathering(brought, seen.maps, scope) : null;
    const isGathered = (t: OutsideThing): boolean => gathering?.tables.some((x) => x.main === t.main) ?? false;
    const along = this.units.along(
      brought.filter((t) => !isGathered(t)),
      new Set(kept.flatMap((u) => u.files.map((f) => f.path))),
    );
    const all = [...kept, ...along, ...this.units.addedUnits()];
    // What is fetched again has its place, too, so that references find it there.
    const placed = placeFiles([...all, ...fetchable], choices);
    const toFetch = fetchable.map((u) => this.units.toFetch(u, placed));
    const gathered = gathering && { ...gathering, path: gatheredPath(choices, new Set(placed.values())) };
    const written = new BundleContents(scope, request, this.origins, placed, gathered);
    this.leftOut.push(...(gathered?.losses ?? []));
    const entries = new Map<string, FileEntry>([
      ...files.map((f) => [join(scope.root, f.path), f] as const),
      ...needs.outside.flatMap((t) => t.files.map((f) => [f.path, f] as const)),
      ...this.request.added.flatMap((path) => this.units.entriesAdded(path).map((f) => [f.path, f] as const)),
    ]);
    const contents = written.rewritten(seen.maps, along);
    const payload = payloadOf(all, placed, entries, contents);
    const records = new Map([...written.records([...all, ...fetchable]), ...written.looks(seen.maps)]);
    const newest = Math.max(0, ...payload.map((f) => f.modifiedMs));
    const made = [...records].map(([to, text]) => madeFile(to, text, newest));
    const tablesOut = this.tablesOut(seen.maps, payload);
    const pages = choices.leavesPictures ? mapPages(seen.maps, needs.services, request.pagesFolder, choices) : [];
    const replaced = new Set(made.map((f) => f.to));
    const sorted = this.sorted([
      ...payload.filter((f) => !replaced.has(f.to)),
      ...made,
      ...pages.flatMap((p) => p.file ?? []),
      ...(gathered ? [fileOf(gathered)] : []),
    ]);
    const layers = this.onArrival(seen.maps, sorted, new BundleWorld(sorted, scope, seen.looker, gathered));
    return {
      scope,
      choices,
      damaged: seen.damaged,
      payload: sorted,
      leftOut: dedupe([...this.leftOut, ...this.staysOutside(needs, brought)]),
      outside: needs.outside.map((t) => outsideOf(t, isGathered(t) ? gathered!.path : (placed.get(t.files[0]?.path ?? '') ?? null))),
      services: needs.services,
      maps: this.allMaps(files, seen.maps),
      pages,
      toFetch,
      tablesOut,
      gathered,
      rewritten: contents.size,
      layers,
      findings: checksOf({
        scope,
        request,
        payload: sorted,
        layers,
        services: needs.services,
        outside: needs.outside,
        origins: this.origins,
      }),
      bytes: sorted.reduce((sum, f) => sum + f.bytes, 0),
    };
  }

  /** The maps with the one layer that was asked for, where one was. */
  private onlyLayer(seen: MapsSeen): MapsSeen {
    const { layer } = this.request.choices;
    if (layer === null) return seen;
    const maps = seen.maps.map((m) => ({ ...m, layers: m.layers.filter((l) => l.layer.id === layer.id) }));
    if (!maps.some((m) => m.layers.length > 0)) throw new ProblemError({ code: 'not-found', what: 'layer', id: layer.id });
    return { ...seen, maps };
  }

  private allMaps(files: readonly FileEntry[], read: readonly MapSeen[]): PackPlan['maps'] {
    const titles = new Map(read.map((m) => [m.path, m.file.title]));
    return files
      .filter((f) => isMapFile(f.path))
      .map((f) => join(this.scope.root, f.path))
      .map((path) => ({ path, title: titles.get(path) ?? basename(path).replace(/\.owc\.json$/i, '') }));
  }

  /** By code point; what no bag can hold under its name stays out alone. */
  private sorted(files: readonly BundleFile[]): BundleFile[] {
    const unsafe = files.filter((f) => isUnsafePath(f.to));
    this.leftOut.push(...unsafe.map((f) => ({ path: f.source ?? f.to, why: 'its name would lead out of the bundle on some system' })));
    return files.filter((f) => !isUnsafePath(f.to)).sort((a, b) => byCodePoint(a.to, b.to));
  }

  /** Tables that no layer uses, of geodatabases of which layers use some. */
  private tablesOut(maps: readonly MapSeen[], payload: readonly BundleFile[]): Map<string, string[]> {
    const out = new Map<string, string[]>();
    if (this.request.choices.tables === 'whole') return out;
    const used = new Map<string, Set<string>>();
    for (const { layers } of maps)
      for (const { judgement: j } of layers) {
        const path = j.resolved !== null && j.table !== null && j.location ? realOrNull(j.resolved) : null;
        if (path !== null) used.set(path, (used.get(path) ?? new Set()).add(j.table!));
      }
    for (const { source } of payload) {
      const tables = source !== null && /\.gpkg$/i.test(source) ? used.get(realOrNull(source) ?? source) : undefined;
      if (source === null || !tables) continue;
      const all = datasetsOfFile(source).flatMap((d) => (d.dataset.table === null ? [] : [d.dataset.table]));
      const rest = all.filter((table) => !tables.has(table));
      if (rest.length === 0) continue;
      out.set(source, rest);
      this.leftOut.push(...rest.map((table) => ({ path: `${source}#${table}`, why: 'no layer uses this table' })));
    }
    return out;
  }

  private onArrival(maps: readonly MapSeen[], files: readonly BundleFile[], world: BundleWorld): LayerRow[] {
    const bySource = new Map(files.map((f) => [f.source, f]));
    return maps.flatMap((map) => {
      const file = bySource.get(map.path);
      if (!file) return [];
      const needs = map.layers.map((l) => l.layer.needs);
      const then = world.layersOf(file.to, file.content?.toString('utf8') ?? map.file.text, needs);
      return map.layers.map((seen, i): LayerRow => {
        const now = layerRow(map, seen);
        const { state, reason, stored, reach, detail } = then[i]!.judgement;
        const isLost = isInOrder(now.state) && !isInOrder(state);
        const { reason: _, detail: __, ...rest } = now;
        if (!isLost && !isInOrder(state)) return { ...now, stored };
        return {
          ...rest,
          state,
          stored,
          reach,
          ...(reason === undefined ? {} : { reason: isLost && now.reach !== 'inside' ? 'outside' : reason }),
          ...(isLost ? { detail: detail ?? 'its data does not travel' } : {}),
        };
      });
    });
  }

  private staysOutside(needs: Needs, brought: readonly OutsideThing[]): LeftOut[] {
    return needs.outside
      .filter((t) => !brought.includes(t))
      .map((t) => ({ path: t.main, why: `the ${t.kind === 'data' ? 'data' : t.kind} of "${t.uses[0]!.layer}" is outside the root` }));
  }
}

/** As it is: with what comes along; by a plan: in its folder of geodatabases. */
function gatheredPath({ arrange }: SendChoices, taken: ReadonlySet<string>): string {
  const folder = arrange ? folderOfRole('geodatabases', arrange)!.path : ALONG;
  for (let n = 1; ; n++) {
    const path = joined([folder, n === 1 ? 'gathered.gpkg' : `gathered_${n}.gpkg`]);
    if (!taken.has(path)) return path;
  }
}

/** It is made when the bundle is: until then its size is a guess. */
const fileOf = ({ path, bytes, modifiedMs }: Gathering & { readonly path: string }): BundleFile => ({
  source: null,
  content: null,
  to: path,
  asIs: '',
  bytes,
  sourceBytes: bytes,
  modifiedMs,
  from: 'along',
  role: 'geodatabases',
  isMain: true,
  uses: [],
});

const groupOf = (path: string, groups: ReadonlyMap<string, FileGroup>): FileGroup | undefined =>
  groups.get(path) ?? [...groups.values()].find((g) => g.path === path);

const dedupe = (list: readonly LeftOut[]): LeftOut[] => [...new Map(list.map((l) => [`${l.path}\n${l.why}`, l])).values()];

/** What of units goes in, each file with its place, and with its text where that is written otherwise. */
function payloadOf(
  units: readonly Unit[],
  placed: ReadonlyMap<string, string>,
  entries: ReadonlyMap<string, FileEntry>,
  contents: ReadonlyMap<string, Buffer>,
): BundleFile[] {
  return units.flatMap((unit) =>
    unit.files.flatMap((f, i): BundleFile[] => {
      const to = placed.get(f.source);
      const entry = entries.get(f.source);
      if (to === undefined || !entry) return [];
      const content = contents.get(f.source) ?? null;
      const { bytes: sourceBytes, modifiedMs } = entry;
      const bytes = content?.length ?? sourceBytes;
      return [
        {
          source: f.source,
          content,
          to,
          asIs: f.path,
          bytes,
          sourceBytes,
          modifiedMs,
          from: unit.from,
          role: unit.role,
          isMain: i === 0,
          uses: unit.uses,
        },
      ];
    }),
  );
}

/** A file that is written for the bundle. */
function madeFile(to: string, text: string, modifiedMs: number): BundleFile {
  const content = Buffer.from(text, 'utf8');
  const { length } = content;
  return {
    source: null,
    content,
    to,
    asIs: '',
    bytes: length,
    sourceBytes: length,
    modifiedMs,
    from: 'made',
    role: 'originals',
    isMain: false,
    uses: [],
  };
}

/** A thing outside the root as the plan tells of it. @param to where it goes in the bundle; null: it stays */
const outsideOf = (t: OutsideThing, to: string | null): PackPlan['outside'][number] => ({
  path: t.main,
  kind: t.kind,
  files: t.files.length,
  bytes: t.files.reduce((sum, f) => sum + f.bytes, 0),
  uses: t.uses,
  to,
});
