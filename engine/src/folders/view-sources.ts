import { attributionText, datasetId, originFindings, roleOf, statedCrsChecks, type Dataset, type Origin } from '@rootmap/core';
import type { SourcesView, SourceView } from '@rootmap/core/contract';
import { join, basename } from '../disk/native-path.js';
import { crsKey } from '../crs/definitions.js';
import { factsOf, foundCrs } from '../crs/facts-of.js';
import { crsNamed } from '../crs/search-crs.js';
import { knownProjects } from '../move/known-maps.js';
import { confinementOf, presentLinks, type RootedScope } from '../project/scope.js';
import { surveyWithIndex, type IndexStore } from '../survey/survey-index.js';
import { keeperOf, Origins } from './origins.js';
import { usedData, usesOfData } from './used-paths.js';

/** What the dataset table knows beside the project's view: fields, extents, origins, uses. */
export async function viewSources(scope: RootedScope, roots: readonly string[], index: IndexStore): Promise<SourcesView> {
  const uses = usesOfData(knownProjects([scope.root, ...roots], scope.places), scope.places);
  const origins = new Origins(keeperOf(scope));
  const sources: SourceView[] = [];
  for (const { folder, name: owner } of [{ folder: scope.root, name: 'this project' }, ...presentLinks(scope)]) {
    const survey = await surveyWithIndex(folder, index, { confinedTo: confinementOf(folder, scope.places) });
    // What is made here needs no origin; what came in does.
    const cameIn = (d: Dataset): boolean => folder !== scope.root || roleOf(d.group.path, scope.project?.folders ?? {}) === 'originals';
    const tables = new Map<string, number>();
    for (const { group } of survey.datasets) tables.set(group.path, (tables.get(group.path) ?? 0) + 1);
    for (const d of survey.datasets) {
      if (d.kind === 'document') continue;
      const usedBy = uses({ path: join(folder, d.group.path), table: d.table }, tables.get(d.group.path) === 1);
      sources.push({ ...viewSource(d, folder, usedBy, origins, cameIn(d)), owner });
    }
  }
  const own = usedData(knownProjects([scope.root], scope.places), scope.places);
  const told = own.flatMap(({ path, table }): Origin[] => {
    const origin = origins.of(path, table);
    return origin ? [origin] : [];
  });
  const originals = Object.entries(scope.project?.folders ?? {}).flatMap(([path, role]) => (role === 'originals' ? [path] : []));
  const folderFor = (wanted: string): string =>
    Object.entries(scope.project?.folders ?? {}).find(([, role]) => role === wanted)?.[0] ?? wanted;
  return { sources, attribution: attributionText(told), originals, workFolder: folderFor('working'), exportsFolder: folderFor('exports') };
}

/** Where what the publisher states is not what was found, as far as that is told without reading the records. */
const statedFindings = (origin: Origin | null, { crs }: Dataset): SourceView['findings'] =>
  (origin ? statedCrsChecks(origin, foundCrs(crs)) : [])
    .filter((check) => check.result !== 'pass')
    .map(({ code, detail }) => ({ code, message: detail.replace(/\.$/, '') }));

function viewSource(d: Dataset, folder: string, usedBy: number, origins: Origins, cameIn: boolean): Omit<SourceView, 'owner'> {
  const path = join(folder, d.group.path);
  const crs = d.crs?.code ? crsNamed(d.crs.code) : null;
  const facts = d.crs && factsOf(d.crs);
  const origin = d.group.format === 'opaque' ? null : origins.of(path, d.table);
  return {
    id: datasetId(path, d.table),
    fields: (d.fields ?? []).map((f) => [f.name, f.type] as const),
    bbox: d.bbox,
    crsName: d.crs?.name ?? null,
    crsIsOwn: d.crs?.code === null && crsKey(d.crs) !== null,
    unit: facts?.unit ?? crs?.unit ?? null,
    crsArea: crs?.area ?? null,
    crsFacts: facts,
    crsOtherName: d.crs?.otherName ?? null,
    modifiedMs: Math.max(d.group.main.modifiedMs, ...d.group.companions.map((c) => c.modifiedMs)),
    files: [d.group.main, ...d.group.companions].map((f) => basename(f.path)),
    usedBy,
    origin,
    findings: d.group.format === 'opaque' || (!cameIn && !origin) ? [] : [...originFindings(origin), ...statedFindings(origin, d)],
  };
}
