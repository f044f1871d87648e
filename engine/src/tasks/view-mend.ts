import { statSync } from 'node:fs';
import {
  explainPointing,
  isIndexLost,
  pickInFolder,
  ProblemError,
  targetKey,
  tellTrouble,
  type Location,
  type Origin,
  type Target,
  joined,
} from '@rootmap/core';
import type { MendLayerView, MendProjectView, OriginShort, PathRequest, PointedView } from '@rootmap/core/contract';
import { basename, dirname, isAbsolute } from '../disk/native-path.js';
import { keeperOf, Origins } from '../folders/origins.js';
import { reachDatasets, withFullFingerprints, type Reached } from '../mend/gather.js';
import { choose } from '../mend/choose.js';
import { explainBroken, pathIn, type ExplainOptions, type MendWork } from '../mend/plan-mend.js';
import type { FoundCompanion } from '../mend/lost-companions.js';
import type { Packed } from '../mend/packed.js';
import { hrefFor } from '../mend/patch-layer.js';
import { dataOf } from '../mend/replace-data.js';
import { layerKey } from '../project/layer-row.js';
import type { MapsSeen } from '../project/read-maps.js';
import { isRooted, locationOf, type Scope } from '../project/scope.js';
import type { SeenStore } from '../survey/sqlite-index.js';
import { factsOf, recordedFolder } from './view-project.js';
import { shownPath } from '../project/shown-path.js';

export const titleOf = (map: { path: string; file: { title: string } }): string => map.file.title || basename(map.path);

/** Candidates that a person is shown; where one is turned down the next comes up. */
const MOST_SHOWN = 5;

/** What was found of layers beside datasets, by their keys. */
export interface Elsewhere {
  readonly packed: ReadonlyMap<string, readonly Packed[]>;
  readonly tables: ReadonlyMap<string, readonly FoundCompanion[]>;
}

/** The plan of a mend as the web app shows it. */
export function viewMend(work: MendWork, { packed, tables }: Elsewhere, known: SeenStore): MendProjectView {
  const { scope, seen } = work;
  const proposals = new Map(work.proposals.map((p) => [p.layer, p]));
  const targets = new Map(work.reached.map((r) => [pathIn(r.target, scope), r.target]));
  const byKey = new Map(seen.maps.flatMap((map) => map.layers.map((layer) => [layerKey(map, layer), { map, layer }] as const)));
  const users = mapsByData(seen);
  const origins = new Origins(isRooted(scope) ? keeperOf(scope) : null);
  const viewTable = ({ path, evidence }: FoundCompanion) => ({
    at: requestOf(locationOf(path, scope.places)),
    shownPath: shownPath(path, scope),
    evidence,
  });
  const layers = work.view.layers.map((l): MendLayerView => {
    const { map, layer } = byKey.get(l.key)!;
    const own = dataOf(layer);
    return {
      key: l.key,
      map: l.map,
      mapTitle: titleOf(map),
      layer: l.layer,
      title: l.title,
      stored: layer.judgement.stored,
      reach: layer.judgement.reach,
      recordedFolder: recordedFolder(layer, scope),
      resolved: layer.judgement.location ? layer.judgement.resolved : null,
      before: l.before,
      after: l.after,
      verdict: l.verdict,
      shift: l.shift,
      choice: l.choice,
      remembered: factsOf(layer.layer.fingerprint),
      needs: layer.layer.needs,
      trouble: tellTrouble(
        layer.judgement,
        proposals.get(l.key) ?? null,
        (packed.get(l.key) ?? []).map((p) => shownPath(p.archive, scope)),
        tables.get(l.key)?.length ?? 0,
        l.shift === null ? null : work.view.shifts[l.shift]!.kind,
      ),
      packedIn: packed.has(l.key) ? requestOf(locationOf(packed.get(l.key)![0]!.archive, scope.places)) : null,
      usedBy: own === null ? [] : [...(users.get(own) ?? [])].filter((title) => title !== titleOf(map)),
      indexLost: isIndexLost(layer.judgement) && layer.judgement.location ? requestOf(layer.judgement.location) : null,
      tableLost: tables.has(l.key) ? { dataset: requestOf(layer.judgement.location!), tables: tables.get(l.key)!.map(viewTable) } : null,
      origin: shortOf(
        layer.judgement.location && layer.judgement.resolved !== null ? origins.of(layer.judgement.resolved, layer.judgement.table) : null,
      ),
      lastSeenMs: own === null ? null : (known.seen(own)?.ms ?? null),
      candidates: l.candidates.slice(0, MOST_SHOWN).map((c) => ({
        ...c,
        shownPath: shownPath(c.path, scope),
        usedBy: [...(users.get(c.path) ?? [])],
        origin: shortOf(origins.of(...(c.path.split(/#(.*)/s, 2) as [string, string?]))),
        facts: factsOf(targets.get(c.path)?.fingerprint ?? layer.judgement.found)!,
      })),
    };
  });
  const titles = new Map(seen.maps.map((m) => [m.path, titleOf(m)]));
  const keyOf = new Map(layers.map((l) => [`${l.map}\n${l.layer}`, l.key]));
  return {
    layers,
    shifts: work.view.shifts.map((s) => ({
      kind: s.kind,
      from: shownOrRaw(s.from, scope),
      to: shownOrRaw(s.to, scope),
      evidence: s.evidence,
      verdict: s.verdict,
      layers: s.layers.map((l) => keyOf.get(`${l.map}\n${l.layer}`)!),
      maps: new Set(s.layers.map((l) => l.map)).size,
      redirect: s.redirect?.kind === 'link' ? { ...s.redirect, folder: requestOf(s.redirect.folder) } : s.redirect,
    })),
    styles: work.view.styles.map(({ key, title, map, before, after, verdict, evidence }) => {
      return { key, map, title, mapTitle: titles.get(map)!, before, after, verdict, evidence };
    }),
    searched: work.view.searched,
    damaged: work.view.damaged,
  };
}

const requestOf = ({ place, segments }: Location): PathRequest => ({ place, path: joined(segments) });

const shortOf = (o: Origin | null): OriginShort | null =>
  o && { title: o.title, publisher: o.publisher, page: o.page, address: o.address, fetched: o.fetched, licence: o.licence };

/** Titles of the maps that use each dataset, also one that is gone. */
function mapsByData(seen: MapsSeen): ReadonlyMap<string, ReadonlySet<string>> {
  const users = new Map<string, Set<string>>();
  for (const map of seen.maps)
    for (const layer of map.layers) {
      const data = dataOf(layer);
      if (data !== null) users.set(data, (users.get(data) ?? new Set()).add(titleOf(map)));
    }
  return users;
}

/** A folder as people call it; the root itself by its drive name. */
function shownOrRaw(path: string, scope: Scope): string {
  if (path.startsWith('file:')) return decodeURIComponent(path.replace(/^file:\/{2,3}(?=[A-Za-z]:)/, '').replace(/^file:/, ''));
  return isAbsolute(path) ? shownPath(path, scope) : path;
}

/** The entry by which 'not this one' is remembered. Throws where the layer was not offered that dataset. */
export function rejectionOf(work: MendWork, { key, path }: { key: string; path: string }): string {
  const [choice] = choose(work, [{ key, path }]);
  return `${key}\n${targetKey(choice!.target)}`;
}

/** Styles by their keys, as they come from the page. Throws where one is proposed nothing any longer. */
export function chooseStyles(work: MendWork, wanted: readonly string[]): Map<string, string> {
  const proposed = new Map(work.view.styles.map((s) => [s.key, s.after]));
  return new Map(
    wanted.map((key) => {
      const after = proposed.get(key);
      if (!after) throw new ProblemError({ code: 'not-found', what: 'style to mend', id: key.split('\n').slice(-2)[0]! });
      return [key, after];
    }),
  );
}

/** What pointing at a folder or a dataset mends: the layer that was pointed for, and all that the same shift explains. */
export function pointOut(scope: Scope, key: string, path: string, search: readonly string[], options: ExplainOptions): PointedView {
  const isFolder = statSync(path).isDirectory();
  const folder = isFolder ? path : dirname(path);
  const work = explainBroken(scope, [...search, folder], options);
  const entry = work.broken.find((b) => b.broken.key === key);
  if (!entry) throw new ProblemError({ code: 'not-found', what: 'broken layer', id: key.split('\n').pop()! });
  const here = withFullFingerprints(reachDatasets([folder], scope), [entry.broken], options.read);
  const target = isFolder
    ? pickInFolder(
        entry.broken,
        here.map((r) => r.target),
      )
    : datasetAt(here, path, entry.broken.table, scope);
  if (!target)
    throw new ProblemError({
      code: 'wrong-use',
      message: `Nothing in ${shownPath(folder, scope)} fits "${entry.broken.title}". Point at a folder that holds its data, or at the dataset itself.`,
    });
  const targets = new Map([...work.reached, ...here].map((r) => [pathIn(r.target, scope), r.target])); // the folder may lie below one searched
  const pointed = explainPointing(
    entry.broken,
    target,
    work.broken.map((b) => b.broken),
    [...targets.values()],
  );
  const trail = (t: { space: string; segments: readonly string[] }): string =>
    `${t.space === scope.places[0]?.name ? '' : `${t.space}: `}${joined(t.segments)}`;
  return {
    from: trail(pointed.from),
    to: trail(pointed.to),
    mends: pointed.mends.map((m) => {
      const { map, seen } = work.broken.find((b) => b.broken.key === m.layer)!;
      return {
        key: m.layer,
        title: seen.layer.title,
        mapTitle: titleOf(map),
        before: seen.layer.reference?.href ?? null,
        after: hrefFor(map, m.target, scope),
        path: pathIn(m.target, scope),
      };
    }),
  };
}

function datasetAt(here: readonly Reached[], path: string, table: string | null, scope: Scope): Target | null {
  const there = here.map((r) => r.target).filter((t) => pathIn(t, scope).replace(/#.*$/s, '') === path);
  return there.find((t) => t.table === table) ?? (there.length === 1 ? there[0]! : null);
}
