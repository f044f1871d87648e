import { statSync } from 'node:fs';
import {
  byCodePoint,
  EMPTY_ORIGIN,
  folderOfRole,
  joined,
  groupFiles,
  isMapFile,
  isUnsafePath,
  nameOf,
  patchProject,
  patchText,
  ProblemError,
  rewriteMapForBundle,
  rewriteStyleForBundle,
  standsIn,
  topOf,
  type FileEntry,
  type FileGroup,
  type InBundle,
  type SendChoices,
  must,
  isInOrder,
} from '@rootmap/core';
import { toldPath } from './told-path.js';
import { basename, below, dirname, join, resolve } from '../disk/native-path.js';
import { readFileSync } from '../disk/files.js';
import { keeperOf, Origins } from '../folders/origins.js';
import { RECORDS } from '../move/records.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import { pathOfReference, readStyleFile } from '../project/layer-styles.js';
import { layerRow, type LayerRow } from '../project/layer-row.js';
import { readMaps, type MapDamaged, type MapSeen, type MapsSeen } from '../project/read-maps.js';
import { confinementOf, locationOf, type RootedScope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import type { BundleFile, LeftOut } from './bundle-file.js';
import { BundleWorld } from './bundle-world.js';
import { checksOf, type SendCheck } from './checks.js';
import { chooseFiles, roleIn } from './choose-files.js';
import { needsOfMaps, realOrNull, type Needs, type OutsideThing } from './needs-of-maps.js';
import { planGathering, tableFor, type Gathering } from './gather.js';
import { looksBeside } from './looks-beside.js';
import { ALONG, foldersAlong, placeFiles, ROLE_ALONG, rolesInBundle, unitAlong, type Unit } from './place-files.js';
import { PACK_ALL, type PackRequest } from './pack-request.js';
import { recordsInBundle, type MovedData } from './records-in-bundle.js';

/** Data outside the root that a layer uses. */
interface OutsideData {
  /** Real path of its main file. */
  readonly path: string;
  readonly kind: OutsideThing['kind'];
  readonly files: number;
  readonly bytes: number;
  readonly uses: OutsideThing['uses'];
  /** Where it stands in the bundle; null: it stays here. */
  readonly to: string | null;
}

interface ToFetch {
  readonly path: string;
  readonly address: string;
  readonly bytes: number;
  /** Real paths, the main file first. */
  readonly files: readonly string[];
}

export interface PackPlan {
  readonly scope: RootedScope;
  readonly choices: SendChoices;
  readonly damaged: readonly MapDamaged[];
  /** By code point of their paths in the bundle. */
  readonly payload: readonly BundleFile[];
  readonly leftOut: readonly LeftOut[];
  readonly outside: readonly OutsideData[];
  readonly services: Needs['services'];
  /** Every map of the root, by path, chosen or not. */
  readonly maps: readonly { readonly path: string; readonly title: string }[];
  readonly toFetch: readonly ToFetch[];
  /** Tables that stay out, by the real path of their geodatabase: what goes in is a copy without them. */
  readonly tablesOut: ReadonlyMap<string, readonly string[]>;
  /** The geodatabase that outside tables are gathered into, and where it stands in the bundle; null: none is made. */
  readonly gathered: (Gathering & { readonly path: string }) | null;
  /** Maps, styles and records that are written otherwise than they are here. */
  readonly rewritten: number;
  /** As they will be where only the bundle is. */
  readonly layers: readonly LayerRow[];
  readonly findings: readonly SendCheck[];
  readonly bytes: number;
}

/** What a bundle of the project would hold, and how its layers will be on arrival. Reads only. */
export const planPack = (scope: RootedScope, request: Partial<PackRequest> = {}): PackPlan =>
  new Planning(scope, { ...PACK_ALL, ...request }).plan();

class Planning {
  private readonly leftOut: LeftOut[] = [];
  private gathered: PackPlan['gathered'] = null;
  private readonly origins: Origins;
  private readonly folders: Readonly<Record<string, string>>;

  constructor(
    private readonly scope: RootedScope,
    private readonly request: PackRequest,
  ) {
    if (!scope.root) throw new ProblemError({ code: 'wrong-use', message: 'A bundle is made of a project folder. Name the folder.' });
    this.origins = new Origins(keeperOf(scope));
    this.folders = scope.project?.folders ?? {};
  }

  plan(): PackPlan {
    const { scope, request } = this;
    const { choices } = request;
    const files = this.list();
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
    const units = this.unitsInside(chosen, groups);
    const { kept, toFetch } = this.leaveFetchable(units);
    const brought = needs.outside.filter((t) => this.comesAlong(t) && t.files.length > 0);
    const gathering = choices.gathers ? planGathering(brought, seen.maps, scope) : null;
    const isGathered = (t: OutsideThing): boolean => gathering?.tables.some((x) => x.main === t.main) ?? false;
    const along = this.unitsAlong(
      brought.filter((t) => !isGathered(t)),
      new Set(kept.flatMap((u) => u.files.map((f) => f.path))),
    );
    const all = [...kept, ...along, ...this.unitsAdded()];
    const placed = placeFiles(all, choices);
    const gathered = gathering && { ...gathering, path: gatheredPath(choices, new Set(placed.values())) };
    this.gathered = gathered;
    this.leftOut.push(...(gathered?.losses ?? []));
    const entries = new Map<string, FileEntry>([
      ...files.map((f) => [join(scope.root, f.path), f] as const),
      ...needs.outside.flatMap((t) => t.files.map((f) => [f.path, f] as const)),
      ...this.request.added.flatMap((path) => this.entriesAdded(path).map((f) => [f.path, f] as const)),
    ]);
    const contents = this.contents(seen.maps, placed, along);
    const payload = all.flatMap((unit) =>
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
    const records = new Map([...this.records(all, placed), ...this.looks(seen.maps, placed)]);
    const newest = Math.max(0, ...payload.map((f) => f.modifiedMs));
    const made = [...records].map(([to, text]): BundleFile => {
      const content = Buffer.from(text, 'utf8');
      const { length } = content;
      return {
        source: null,
        content,
        to,
        asIs: '',
        bytes: length,
        sourceBytes: length,
        modifiedMs: newest,
        from: 'made',
        role: 'originals',
        isMain: false,
        uses: [],
      };
    });
    const tablesOut = this.tablesOut(seen.maps, payload);
    const replaced = new Set(made.map((f) => f.to));
    const sorted = this.sorted([...payload.filter((f) => !replaced.has(f.to)), ...made, ...(gathered ? [fileOf(gathered)] : [])]);
    const layers = this.onArrival(seen.maps, sorted, new BundleWorld(sorted, scope, seen.looker, gathered));
    return {
      scope,
      choices,
      damaged: seen.damaged,
      payload: sorted,
      leftOut: dedupe([...this.leftOut, ...this.staysOutside(needs, brought)]),
      outside: needs.outside.map((t) => ({
        path: t.main,
        kind: t.kind,
        files: t.files.length,
        bytes: t.files.reduce((sum, f) => sum + f.bytes, 0),
        uses: t.uses,
        to: isGathered(t) ? gathered!.path : (placed.get(t.files[0]?.path ?? '') ?? null),
      })),
      services: needs.services,
      maps: this.allMaps(files, seen.maps),
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

  private list(): FileEntry[] {
    const { root, places } = this.scope;
    const listing = listFiles(root, { confinedTo: confinementOf(root, places) });
    this.leftOut.push(
      ...listing.nested.map((path) => ({ path, why: 'it is a project of its own' })),
      ...listing.skipped.map(({ path, why }) => ({ path, why })),
    );
    const target = this.request.out === null ? null : resolve(this.request.out);
    return listing.files.filter((f) => join(root, f.path) !== target);
  }

  /** Datasets with all that belongs to them, and single files. */
  private unitsInside(chosen: ReturnType<typeof chooseFiles>['chosen'], groups: ReadonlyMap<string, FileGroup>): Unit[] {
    const units = new Map<string, Unit>();
    for (const { entry, role, uses } of chosen) {
      const group = groups.get(entry.path);
      const key = group?.path ?? entry.path;
      const file = { path: entry.path, source: join(this.scope.root, entry.path) };
      const known = units.get(key);
      const isMain = entry.path === key;
      const files = !known ? [file] : isMain ? [file, ...known.files] : [...known.files, file];
      units.set(key, { files, role, from: 'inside', uses: known?.uses.length ? known.uses : uses });
    }
    return [...units.values()];
  }

  /** What its publisher offers, and is recorded as such, may be fetched again instead of carried. */
  private leaveFetchable(units: readonly Unit[]): { kept: Unit[]; toFetch: ToFetch[] } {
    if (!this.request.choices.leaveFetchable) return { kept: [...units], toFetch: [] };
    const kept: Unit[] = [];
    const toFetch: ToFetch[] = [];
    for (const unit of units) {
      const [main] = unit.files;
      const origin = this.origins.of(main!.source);
      if (!origin?.isReobtainable || !/^https?:\/\//i.test(origin.address)) kept.push(unit);
      else {
        toFetch.push({ path: main!.path, address: origin.address, bytes: this.bytesOf(unit), files: unit.files.map((f) => f.source) });
        for (const f of unit.files) this.leftOut.push({ path: f.path, why: `it can be fetched again from ${origin.address}` });
      }
    }
    return { kept, toFetch };
  }

  private bytesOf(unit: Unit): number {
    return unit.files.reduce((sum, f) => sum + statSync(f.source).size, 0);
  }

  private comesAlong = (thing: OutsideThing): boolean => {
    const { along } = this.request.choices;
    return this.request.choices.layer !== null || along === 'all' || (along !== 'none' && along.includes(thing.main));
  };

  private unitsAlong(things: readonly OutsideThing[], taken: ReadonlySet<string>): Unit[] {
    const isTaken = (name: string): boolean => [...taken].some((p) => standsIn(name, p));
    const folders = foldersAlong(
      things.map((t) => dirname(t.files[0]!.path)),
      isTaken,
    );
    return things.map((t) => ({
      files: unitAlong(
        t.files.filter((f) => !/-shm$/i.test(f.path)).map((f) => f.path),
        folders,
      ),
      role: ROLE_ALONG,
      from: 'along',
      uses: t.uses,
    }));
  }

  private readonly added = new Map<string, FileEntry[]>();
  private entriesAdded(path: string): FileEntry[] {
    let entries = this.added.get(path);
    if (!entries) {
      const folder = dirname(path);
      const listing = listFiles(folder, { confinedTo: confinementOf(folder, this.scope.places) });
      const name = basename(path);
      entries = listing.files.filter((f) => standsIn(name, f.path)).map((f) => ({ ...f, path: join(folder, f.path) }));
      if (entries.length === 0) this.leftOut.push({ path, why: 'it was to be added, and nothing stands there that can be' });
      this.added.set(path, entries);
    }
    return entries;
  }

  private unitsAdded(): Unit[] {
    return this.request.added.flatMap((path) =>
      this.entriesAdded(path).map((f): Unit => {
        const inner = `added/${below(dirname(path), f.path)!}`;
        return { files: [{ path: inner, source: f.path }], role: roleIn(inner, {}), from: 'added', uses: [] };
      }),
    );
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

  /** Looks as files beside their data, by path in the bundle. */
  private looks(maps: readonly MapSeen[], placed: ReadonlyMap<string, string>): Map<string, string> {
    if (!this.request.choices.looksBeside && this.request.choices.layer === null) return new Map();
    const dataOf = (map: MapSeen, id: string): string | null => {
      const reference = map.layers.find((l) => l.layer.id === id)?.layer.reference;
      return reference ? (this.finder(map.location, placed)(reference.href)?.path ?? null) : null;
    };
    const taken = new Set(placed.values());
    return looksBeside(
      maps,
      dataOf,
      (map, href) => this.finder(map.location, placed)(href),
      (path) => taken.has(path),
    );
  }

  /** Where something stands in the bundle, by a reference to it from a file here. */
  private finder(from: MapSeen['location'], placed: ReadonlyMap<string, string>): InBundle {
    return (href) => {
      const at = pathOfReference(href, from, this.scope);
      if (at === null) return null;
      const table = this.gathered && tableFor(this.gathered, realOrNull(at.path) ?? at.path, href);
      if (this.gathered && table !== null) return { path: this.gathered.path, table };
      const path = placed.get(at.path) ?? this.placedReal(at.path, placed);
      return path === null ? null : { path, table: null };
    };
  }

  /** What goes in instead of the bytes on the disk, by real path: maps, styles and the project file. */
  private contents(maps: readonly MapSeen[], placed: ReadonlyMap<string, string>, along: readonly Unit[]): Map<string, Buffer> {
    const contents = new Map<string, Buffer>();
    const finder = (from: MapSeen['location']) => this.finder(from, placed);
    for (const map of maps) {
      const to = placed.get(map.path);
      if (to === undefined) continue;
      const { patches } = rewriteMapForBundle(map.file, to, finder(map.location));
      if (patches.length > 0) contents.set(map.path, Buffer.from(patchText(map.file.text, patches), 'utf8'));
    }
    for (const [source, to] of placed) {
      if (!/\.(sld|se)$/i.test(source)) continue;
      const text = readStyleFile(source);
      const after = text === null ? null : rewriteStyleForBundle(text, to, finder(locationOf(source, this.scope.places)));
      if (after !== null) contents.set(source, Buffer.from(after, 'utf8'));
    }
    const project = this.projectFile(placed, along);
    if (project && this.scope.projectFile) contents.set(this.scope.projectFile, project);
    return contents;
  }

  /** A reference may reach its data in other letters, through a link, or mean a folder that is one dataset. */
  private placedReal(path: string, placed: ReadonlyMap<string, string>): string | null {
    const known = placed.get(realOrNull(path) ?? path);
    if (known !== undefined) return known;
    const inside = [...placed].find(([source]) => below(path, source) !== null && source !== path);
    if (!inside) return null;
    const rest = below(path, inside[0])!;
    return inside[1].slice(0, inside[1].length - rest.length - 1);
  }

  private projectFile(placed: ReadonlyMap<string, string>, along: readonly Unit[]): Buffer | null {
    const { projectFile, project, root } = this.scope;
    if (!projectFile || !project) return null;
    const { choices } = this.request;
    const [first] = along;
    const top = first ? topOf(first.files[0]!.path) : this.gathered ? topOf(this.gathered.path) : null;
    const folders = rolesInBundle(choices, this.folders, top);
    const working =
      project.workingGeodatabase === null ? null : (placed.get(join(root, project.workingGeodatabase)) ?? project.workingGeodatabase);
    const members = {
      ...(folders ? { folders } : {}),
      ...(working === project.workingGeodatabase ? {} : { workingGeodatabase: working }),
      ...(choices.along === 'all' && project.links.length > 0 ? { links: [] } : {}),
    };
    if (Object.keys(members).length === 0) return null;
    const text = readFileSync(projectFile).toString('utf8');
    return Buffer.from(must(patchProject(projectFile, text, members)), 'utf8');
  }

  /** Records of origin that are not carried as they are: of what comes along, and of all data where it is arranged anew. */
  private records(units: readonly Unit[], placed: ReadonlyMap<string, string>): Map<string, string> {
    const isArranged = this.request.choices.arrange !== null;
    const moved = units
      .filter((u) => u.from === 'along' || (isArranged && u.from === 'inside' && nameOf(u.files[0]!.path) !== RECORDS))
      .map((u): MovedData => {
        const { source } = u.files[0]!;
        return {
          source,
          to: placed.get(source)!,
          origins: this.origins.allOf(source),
          cameFrom: u.from === 'along' ? toldPath(source, this.scope) : null,
        };
      });
    return recordsInBundle([...moved, ...this.madeTables()]);
  }

  /** Tables that were made, each with what is written down of what it was made of. */
  private madeTables(): MovedData[] {
    const { gathered } = this;
    return (gathered?.tables ?? []).map(({ name, main, table }) => ({
      source: main,
      to: gathered!.path,
      isMade: true,
      origins: [{ table: name, origin: this.origins.of(main, table) ?? { ...EMPTY_ORIGIN, isReobtainable: false } }],
      cameFrom: toldPath(main, this.scope),
    }));
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
