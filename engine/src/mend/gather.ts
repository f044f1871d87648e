import {
  climb,
  fingerprintOf,
  groupFiles,
  parseReference,
  type BrokenLayer,
  type Dataset,
  type Fingerprint,
  type Location,
  type Target,
  type Trail,
  partsOf,
} from '@rootmap/core';
import { join, isBelow } from '../disk/native-path.js';
import { fullFingerprint } from '../fingerprint/full-fingerprint.js';
import { layerKey } from '../project/layer-row.js';
import type { LayerSeen, MapSeen, MapsSeen } from '../project/read-maps.js';
import { confinementOf, linkLocations, locationOf, type Scope } from '../project/scope.js';
import { describeBelow } from '../survey/list-datasets.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { listFiles } from '../survey/list-files.js';

/** States that a rewrite could put right, or for which a copy may be offered. */
/** A service is asked, not looked for. */
const isMendable = ({ judgement: j }: LayerSeen): boolean => j.reach !== 'service' && isMendableData(j);

const isMendableData = (j: LayerSeen['judgement']): boolean =>
  (j.state === 'adrift' && j.reason !== 'leaves-place') ||
  j.state === 'different' ||
  (j.state === 'sound' && j.reason === 'spelling') ||
  hereOf(j) !== null;

/** Its data stands where it was recorded, and cannot be used. */
function hereOf({ state, reason }: LayerSeen['judgement']): BrokenLayer['isHere'] {
  if (state === 'absent' || state === 'incomplete') return state;
  return state === 'unreadable' && (reason === 'damaged' || reason === 'not-a-dataset') ? 'damaged' : null;
}

export function brokenLayers(seen: MapsSeen, scope: Scope): { broken: BrokenLayer; map: MapSeen; seen: LayerSeen }[] {
  const links = linkLocations(scope);
  return seen.maps.flatMap((map) =>
    map.layers.filter(isMendable).map((layer) => ({ broken: toBroken(map, layer, links), map, seen: layer })),
  );
}

function toBroken(map: MapSeen, seen: LayerSeen, links: readonly { name: string; location: Location }[]): BrokenLayer {
  const { layer, judgement: j } = seen;
  const parsed = layer.reference && parseReference(layer.reference.href);
  const steps = parsed?.ok && parsed.value.kind === 'relative' ? parsed.value.segments : null;
  const link = layer.link && links.find((l) => l.name === layer.link!.name);
  const below = link ? climb(link.location.segments, partsOf(layer.link?.path ?? '').filter(Boolean)) : null;
  return {
    key: layerKey(map, seen),
    map: map.location,
    title: layer.title,
    recorded: recordedTrail(seen, steps),
    steps,
    table: j.table,
    fingerprint: layer.fingerprint,
    needs: layer.needs,
    throughLink: link && below ? { place: link.location.place, segments: below } : null,
    isHere: hereOf(j),
  };
}

function recordedTrail({ judgement: j }: LayerSeen, steps: readonly string[] | null): Trail | null {
  if (j.location) return { space: j.location.place, segments: j.location.segments };
  if (j.foreign) return { space: j.foreign.root, segments: j.foreign.segments };
  const named = steps?.filter((s) => s !== '..');
  return named?.length ? { space: 'above', segments: named } : null;
}

/** A dataset in reach, with what is needed to read on. */
export interface Reached {
  readonly target: Target;
  readonly folder: string;
  readonly dataset: Dataset;
}

export interface ReachOptions {
  /** Called with each folder's path; throwing from it ends the search. */
  readonly onFolder?: (path: string, files: number) => void;
  /** Folders that were looked through before: what stands there is left out. */
  readonly without?: readonly string[];
  /** Folders with a project file of their own are looked into, too. */
  readonly entersProjects?: boolean;
  /** Told of those that were not. */
  readonly onProject?: (path: string) => void;
}

/** Every dataset below the folders, headers read. A folder that cannot be opened is passed over; the listing says so. */
export function reachDatasets(folders: readonly string[], scope: Scope, options: ReachOptions = {}): Reached[] {
  const { onFolder, without = [], entersProjects = false, onProject } = options;
  return folders.flatMap((folder) => {
    const listing = listFiles(folder, {
      confinedTo: confinementOf(folder, scope.places),
      ...(onFolder ? { onFolder: (path: string, files: number) => onFolder(join(folder, path), files) } : {}),
    });
    const isKnown = (path: string): boolean => without.some((w) => isBelow(w, join(folder, path)));
    const base = locationOf(folder, scope.places);
    const here = groupFiles(listing.files)
      .groups.filter((g) => g.kind !== 'document' && !isKnown(g.main.path))
      .flatMap((g) => describeBelow(folder, g))
      .map((dataset): Reached => ({ folder, dataset, target: toTarget(base, dataset, fingerprintOf(dataset.group, dataset)) }));
    if (!entersProjects) listing.nested.forEach((n) => onProject?.(join(folder, n)));
    const inner = entersProjects ? listing.nested.map((n) => join(folder, n)).filter((n) => !without.includes(n)) : [];
    return [...here, ...reachDatasets(inner, scope, options)];
  });
}

const toTarget = (base: Location, dataset: Dataset, fingerprint: Fingerprint): Target => ({
  location: { place: base.place, segments: [...base.segments, ...partsOf(dataset.group.path)] },
  table: dataset.table,
  fingerprint,
  damaged: dataset.state !== 'ok',
});

const mainBytes = (f: Fingerprint): string =>
  Object.entries(f.bytes)
    .map(([k, v]) => `${k}${v}`)
    .sort()
    .join();

/** One streaming read of a dataset, or what is kept of an earlier one. */
export type ReadWhole = (found: FoundDataset) => Fingerprint;

/**
 * Reads hash, grid and vertices where they can decide something: of datasets that have the size, or the number of records
 * and the extent, that some broken layer remembers.
 */
export function withFullFingerprints(
  reached: readonly Reached[],
  broken: readonly BrokenLayer[],
  read: ReadWhole = ({ folder, dataset }) => fullFingerprint(folder, dataset),
  onDataset: (path: string) => void = () => undefined,
): Reached[] {
  const sizes = new Set<string>();
  const contents = new Set<string>();
  for (const { fingerprint: f } of broken) {
    if (!f || (f.hash === null && f.grid === null)) continue;
    sizes.add(mainBytes(f));
    if (f.count !== null) contents.add(`${f.count}`);
    if (f.raster) contents.add(`${f.raster.width}×${f.raster.height}`);
  }
  return reached.map((r) => {
    const f = r.target.fingerprint;
    const content = f.raster ? `${f.raster.width}×${f.raster.height}` : `${f.count}`;
    if (r.target.damaged || f.hash !== null || (!sizes.has(mainBytes(f)) && !contents.has(content))) return r;
    onDataset(join(r.folder, r.dataset.group.path));
    return { ...r, target: { ...r.target, fingerprint: read(r) } };
  });
}
