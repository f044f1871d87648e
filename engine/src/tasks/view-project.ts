import { existsSync, statSync } from 'node:fs';
import {
  absoluteAddress,
  address,
  byCodePoint,
  isBelow,
  placeNamed,
  printAddress,
  type Dataset,
  type Fingerprint,
  type Location,
  type MapReference,
  joined,
  folderOf,
  nameOf,
} from '@rootmap/core';
import type { DatasetView, FactsView, LayerView, LinkView, MapView, ProjectView } from '@rootmap/core/contract';
import { basename, join, pathFrom } from '../disk/native-path.js';
import { adriftStyles } from '../mend/adrift-styles.js';
import { pathOf } from '../places/places.js';
import { layerKey } from '../project/layer-row.js';
import { readMaps, totalsOf, type LayerSeen, type MapSeen } from '../project/read-maps.js';
import { confinementOf, linkLocations, locationOf, type Scope } from '../project/scope.js';
import { knownDatasets, surveyWithIndex, type IndexedSurvey, type IndexStore, type SurveyHelper } from '../survey/survey-index.js';
import { shownPath } from '../project/shown-path.js';
import { projectKey } from '../project/project-key.js';

export interface ViewOptions {
  readonly onFolder?: (path: string, files: number) => void;
  readonly helper?: SurveyHelper | undefined;
  readonly later?: ((save: () => void) => void) | undefined;
  /** When linked folders were seen last, by their real paths. */
  readonly seen?: Readonly<Record<string, number>>;
}

/** Survey of the root and its linked folders, and the state of every layer, as the web app shows them. The scope's maps are found by the survey. */
export async function viewProject(bare: Scope, index: IndexStore, options: ViewOptions = {}): Promise<ProjectView> {
  const root = bare.root!;
  const started = performance.now();
  const survey = await surveyWithIndex(root, index, { ...options, confinedTo: confinementOf(root, bare.places) });
  const scope: Scope = { ...bare, maps: survey.maps.map((m) => join(root, m)).sort(byCodePoint) };
  const links = linkLocations(scope);
  const linked: DatasetView[] = [];
  for (const l of links) linked.push(...(await surveyLink(l, scope, index, options)));
  const surveyMs = performance.now() - started;
  const seen = readMaps(scope);
  const rootLocation = locationOf(root, scope.places);
  const datasets = [...datasetsIn(survey, root, rootLocation.place, null), ...linked];
  const known: Known = {
    ids: new Set(datasets.map((d) => d.id)),
    links,
    adrift: new Set(adriftStyles(seen, scope).map((s) => s.reference)),
  };
  return {
    key: projectKey(root),
    id: scope.project?.id ?? null,
    title: scope.project?.title ?? basename(root),
    root,
    shownRoot: printAddress(absoluteAddress(rootLocation, scope.places)),
    place: rootLocation.place,
    path: joined(rootLocation.segments),
    crs: scope.project?.crs ?? null,
    summary: scope.project?.summary ?? '',
    workingGeodatabase: scope.project?.workingGeodatabase ?? null,
    storedForm: scope.project?.storedForm ?? 'relative',
    maps: seen.maps.map((m) => viewMap(m, scope, known)),
    damaged: seen.damaged,
    datasets,
    links: viewLinks(scope, links, index, options.seen ?? {}),
    services: scope.project?.services ?? [],
    leftBehind: survey.leftBehind,
    skipped: survey.skipped,
    totals: totalsOf(seen.maps),
    bytes: survey.bytes,
    files: survey.files,
    lookedMs: Date.now(),
    surveyMs,
  };
}

type NamedLocation = { readonly name: string; readonly location: Location };

async function surveyLink(
  { name, location }: NamedLocation,
  scope: Scope,
  index: IndexStore,
  options: ViewOptions,
): Promise<DatasetView[]> {
  const place = placeNamed(scope.places, location.place);
  if (!place?.present) return [];
  const folder = join(pathOf(place), ...location.segments);
  if (!existsSync(folder) || !statSync(folder).isDirectory()) return [];
  return datasetsIn(
    await surveyWithIndex(folder, index, { ...options, confinedTo: confinementOf(folder, scope.places) }),
    folder,
    location.place,
    name,
  );
}

function viewLinks(scope: Scope, located: readonly NamedLocation[], index: IndexStore, seen: Readonly<Record<string, number>>): LinkView[] {
  return (scope.project?.links ?? []).map((link) => {
    const at = located.find((l) => l.name === link.name)?.location;
    const place = at && placeNamed(scope.places, at.place);
    const path = at && place ? join(pathOf(place), ...at.segments) : null;
    const present = path !== null && !!place?.present && existsSync(path);
    const known = present || path === null ? null : { seenMs: seen[path] ?? null, datasets: lastKnown(path, index) };
    const shown = path === null ? null : shownPath(path, scope);
    return { name: link.name, place: place?.name ?? null, path, shown, present, known };
  });
}

const MOST_KNOWN = 200;

/** What the index still has of a folder that is away. */
function lastKnown(folder: string, index: IndexStore): NonNullable<LinkView['known']>['datasets'] {
  return knownDatasets(index.load(folder))
    .filter((d) => d.kind !== 'document')
    .slice(0, MOST_KNOWN)
    .map((d) => {
      const { name, folder, bytes } = viewDataset(d, '', '', null);
      return { name, folder, bytes };
    });
}

function datasetsIn(survey: IndexedSurvey, folder: string, place: string, link: string | null): DatasetView[] {
  return survey.datasets.filter((d) => d.kind !== 'document').map((d) => viewDataset(d, folder, place, link));
}

function viewDataset(d: Dataset, folder: string, place: string, link: string | null): DatasetView {
  const name = nameOf(d.group.path) + (d.table === null ? '' : `#${d.table}`);
  return {
    id: join(folder, d.group.path) + (d.table === null ? '' : `#${d.table}`),
    name,
    folder: folderOf(d.group.path),
    link,
    place,
    format: d.group.format,
    kind: d.kind,
    geometry: d.geometryType,
    count: d.featureCount,
    crs: d.crs?.code ?? d.crs?.name ?? null,
    bytes: [d.group.main, ...d.group.companions].reduce((sum, f) => sum + f.bytes, 0),
    state: d.state,
    findings: d.findings,
  };
}

/** What is known of the project before its layers are shown: ids of datasets, links, references to styles that lead nowhere. */
interface Known {
  readonly ids: ReadonlySet<string>;
  readonly links: readonly NamedLocation[];
  readonly adrift: ReadonlySet<MapReference>;
}

function viewMap(map: MapSeen, scope: Scope, known: Known): MapView {
  return {
    path: map.path,
    relativePath: scope.root ? pathFrom(scope.root, map.path) : map.path,
    title: map.file.title || basename(map.path).replace(/\.owc\.json$/i, ''),
    storedForm: map.file.storedForm ?? scope.project?.storedForm ?? 'relative',
    bytes: map.bytes.length,
    layers: map.layers.map((l) => viewLayer(map, l, scope, known)),
  };
}

function viewLayer(map: MapSeen, seen: LayerSeen, scope: Scope, { ids, links, adrift }: Known): LayerView {
  const { layer, judgement: j } = seen;
  const spelled = j.spelled && j.location ? join(pathOf(placeNamed(scope.places, j.location.place)!), ...j.spelled) : j.resolved;
  const style = layer.others.find((r) => r.role === 'style');
  const dataset = spelled === null ? null : j.table === null ? spelled : `${spelled}#${j.table}`;
  return {
    key: layerKey(map, seen),
    map: map.path,
    layer: layer.id,
    title: layer.title,
    geometry: j.found?.raster || layer.fingerprint?.raster ? 'raster' : (j.found?.geometryType ?? layer.fingerprint?.geometryType ?? null),
    href: layer.reference?.href ?? null,
    stored: j.stored,
    resolved: j.resolved,
    shownResolved: shownResolved(seen, scope),
    table: j.table,
    reach: j.reach,
    state: j.state,
    reason: j.reason ?? null,
    detail: j.detail ?? null,
    dataset: dataset !== null && ids.has(dataset) ? dataset : null,
    link: j.location ? (links.find((l) => isBelow(l.location, j.location!, scope.places))?.name ?? null) : null,
    recordedFolder: recordedFolder(seen, scope),
    style: style ? { href: style.href, isThere: !adrift.has(style) } : null,
  };
}

function shownResolved({ judgement: j }: LayerSeen, scope: Scope): string | null {
  const table = j.table === null ? '' : `#${j.table}`;
  if (j.foreign) return printAddress(j.foreign) + table;
  if (!j.location) return j.resolved;
  return shownPath(j.resolved!, scope) + table;
}

/** The folder that a reference names, as people read it: from the root where it is inside, else by its drive name. */
export function recordedFolder({ judgement: j }: LayerSeen, scope: Scope): string | null {
  if (j.foreign) return printAddress(address(j.foreign.flavour, j.foreign.root, j.foreign.segments.slice(0, -1)));
  if (!j.location) return null;
  const folder = { place: j.location.place, segments: j.location.segments.slice(0, -1) };
  const root = scope.root ? locationOf(scope.root, scope.places) : null;
  if (root && isBelow(root, folder, scope.places)) return joined(folder.segments.slice(root.segments.length)) || '.';
  return printAddress(absoluteAddress(folder, scope.places));
}

export const factsOf = (f: Fingerprint | null): FactsView | null =>
  f && {
    format: f.format,
    geometry: f.raster ? 'raster' : f.geometryType,
    count: f.count,
    vertices: f.vertices,
    crs: f.crs === null ? null : typeof f.crs === 'string' ? f.crs : 'stated as text',
    modified: f.modified,
    hash: f.hash,
    extent: f.extent,
    grid: f.grid,
    fields: f.fields,
  };
