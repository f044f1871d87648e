import { existsSync } from 'node:fs';
import {
  arcsLost,
  columnNames,
  countArcs,
  type Crs,
  type Loss,
  lossOf,
  ProblemError,
  proposeTableName,
  readTableForRows,
  splitName,
  tableNameFault,
} from '@rootmap/core';
import type { ImportItem, ImportPlanItem, ImportPreview, ShapePart } from '@rootmap/core/contract';
import { basename, dirname, join } from '../disk/native-path.js';
import { crsKey, keyName } from '../crs/definitions.js';
import type { PlannedChange, PlannedStep } from '../changes/change.js';
import { refuseOtherSpelling } from '../disk/other-spelling.js';
import { doubtOf } from '../crs/doubt.js';
import { transformer } from '../crs/transformer.js';
import { platformBelow, type NodePlatform } from '../survey/platform.js';
import { keeperAt, originsAlong } from '../folders/origins.js';
import { knownProjects } from '../move/known-maps.js';
import { arePixelsRead } from '../pixels/open-pixels.js';
import { compositeLosses } from '../pixels/composite.js';
import { maskLost } from '../pixels/masked.js';
import { tiffPixels } from '../pixels/tiff-pixels.js';
import { rootsWrittenIn } from '../move/plan-move.js';
import type { Scope } from '../project/scope.js';
import { dataAt, type FoundDataset } from '../project/find-dataset.js';
import { countSelected, NO_RECORD } from '../rows/select-records.js';
import { selectionWords } from '../rows/selection-words.js';
import { isTurned } from '../project/is-turned.js';
import { partsOf } from './shape-parts.js';
import { textReadingOf } from './text-reading.js';
import { refuseHeld } from './holders.js';
import { replaceContainer } from './replace-container.js';
import { followTables, nameTheOnly, tableReferences } from './tables/table-references.js';
import { namesIn } from './tables/plan-table-edit.js';
import { missingFolders } from '../changes/missing-folders.js';

/** Looks a dataset up by its id: real path, and `#table`. */
export type Find = (id: string) => FoundDataset;

export interface ImportPlan extends ImportPreview {
  readonly path: string;
  readonly change: PlannedChange | null;
}

/**
 * What becomes of each dataset: its table's name, and what is changed on the way. Nothing is written.
 * @param roots of the other known projects, whose maps may refer to the geodatabase
 */
export function planImport(
  scope: Scope,
  find: Find,
  path: string,
  items: readonly ImportItem[],
  crs: string | null,
  who: string,
  roots: readonly string[] = [],
): ImportPlan {
  if (!/\.gpkg$/i.test(path)) throw new ProblemError({ code: 'bad-name', name: basename(path), why: 'a geodatabase ends in .gpkg' });
  const isNew = !existsSync(path);
  if (isNew) refuseOtherSpelling(path);
  else refuseHeld(path);
  const inside = isNew ? null : namesIn(path);
  const taken = new Set(inside?.all);
  const isTaken = (name: string): boolean => taken.has(name.toLowerCase());
  const chosen = bandsChosen(items);
  const planned = items.map((item) => {
    const found = find(item.dataset);
    const { table, group } = found.dataset;
    const stem = table ?? splitName(basename(group.path)).stem;
    const bands = chosen.get(item.dataset)?.size ?? 0;
    const ending = item.selection ? '_part' : item.part !== null ? `_${item.part}` : bands > 1 && item.band ? `_band_${item.band}` : '';
    const proposed = item.table || proposeTableName(`${stem}${ending}`, isTaken);
    const selected = item.selection ? countSelected(found, item.selection) : null;
    const why =
      refusal(found, path, crs, selected !== null) ??
      (selected === 0 ? NO_RECORD : null) ??
      noSuchBand(found, item.composite ?? (item.band ? [item.band] : [])) ??
      tableNameFault(proposed) ??
      whyNotNamed(proposed, isTaken, item.replaces ?? false);
    taken.add(proposed.toLowerCase());
    return itemOf(found, item, proposed, { crs, why, selected, bandsChosen: bands });
  });
  const wanted = planned.filter((p) => p.why === null);
  const things = wanted.length === 1 ? wanted[0]!.table : `${wanted.length} datasets`;
  const known = [...(scope.root === null ? [] : [scope.root]), ...roots];
  const references = inside?.tables.length === 1 ? tableReferences(knownProjects(known, scope.places), scope.places) : [];
  const { writes, rows } = followTables(references, nameTheOnly(path, inside?.tables ?? []), scope.places);
  const along = wanted.map((p) => ({
    from: dataAt(find(p.dataset)),
    to: { path, table: p.table },
    ...(p.selection ? { how: selectionWords(p.selection) } : {}),
  }));
  const records = originsAlong(along, keeperAt(scope, dirname(path)));
  const steps: PlannedStep[] = [
    ...writes,
    ...records.writes,
    ...missingFolders([dirname(path)]).map((folder) => ({ kind: 'folder', path: folder }) as const),
    ...replaceContainer(path),
  ];
  const root = scope.root ?? dirname(path);
  const isReplaced = wanted.length > 0 && wanted.every((p) => p.replaces);
  const title = isReplaced ? `Take over the new edition of ${things}` : `Bring ${things} into ${basename(path)}`;
  const otherRoots = rootsWrittenIn(roots, root, writes);
  const change = wanted.length > 0 ? { title, kind: 'intake' as const, root, otherRoots, who, steps } : null;
  return { path, isNew, named: rows.length, items: planned, change };
}

function whyNotNamed(table: string, isTaken: (name: string) => boolean, replaces: boolean): string | null {
  if (replaces) return isTaken(table) ? null : 'there is no table of that name whose place it could take';
  return isTaken(table) ? 'a table of that name is there already' : null;
}

function refusal({ folder, dataset }: FoundDataset, path: string, crs: string | null, isPart: boolean): string | null {
  if (dataset.state === 'unreadable') return 'it cannot be read';
  if (dataset.kind === 'raster') {
    if (!dataset.bbox) return 'it does not say where on Earth it lies';
    if (isTurned(dataset)) return 'it is turned: tiles of a geodatabase have north up';
    if (!withPlatform(folder, (platform) => arePixelsRead(dataset.group, platform)))
      return 'its pixels are packed in a way that is not read here';
  } else if (dataset.kind !== 'vector' && dataset.kind !== 'table') return 'it is no table';
  if (dataset.geometryType === 'MultiPatch') return 'its shapes are surfaces in space (MultiPatch), which are not read here';
  const own = crsKey(dataset.crs);
  if (dataset.kind === 'vector' && crs !== null && own !== null && !transformer(own, crs))
    return `how ${keyName(own)} becomes ${crs} is not known here: bring it in in its own CRS`;
  return join(folder, dataset.group.path) === path && !isPart ? 'it is in this geodatabase already' : null;
}

/** Null: there is such a band, or none is asked for. */
function noSuchBand(found: FoundDataset, wanted: readonly number[]): string | null {
  if (wanted.length === 0) return null;
  const bands = found.dataset.kind === 'raster' ? bandsOf(found).bands : 0;
  const band = Math.max(...wanted);
  return band <= bands ? null : bands === 0 ? 'it has no bands of numbers to choose from' : `it has ${bands} bands, and no ${band}`;
}

/** Of each raster the bands that become tables. */
function bandsChosen(items: readonly ImportItem[]): ReadonlyMap<string, ReadonlySet<number>> {
  const chosen = new Map<string, Set<number>>();
  for (const { dataset, band } of items) if (band) chosen.set(dataset, (chosen.get(dataset) ?? new Set()).add(band));
  return chosen;
}

interface Planning {
  readonly crs: string | null;
  readonly why: string | null;
  /** How many of its records are selected; null: all are. */
  readonly selected: number | null;
  /** How many bands of it become tables. */
  readonly bandsChosen: number;
}

function itemOf(found: FoundDataset, item: ImportItem, table: string, { crs, why, selected, bandsChosen }: Planning): ImportPlanItem {
  const { dataset } = found;
  const own = crsKey(dataset.crs);
  const isVector = dataset.kind === 'vector';
  const renamed = columnNames(dataset.fields ?? []).flatMap((f, i) =>
    f.name === dataset.fields![i]!.name ? [] : [`the field ${dataset.fields![i]!.name} is called ${f.name}`],
  );
  const moves = isVector && crs !== null && own !== null && own !== crs;
  const doubt = moves ? doubtOf(own, crs).why : null;
  const parts = isVector && item.part === null && why === null && /^Geometry/.test(dataset.geometryType ?? '') ? mixed(found) : [];
  const size = dataset.raster;
  const { bands, isBytes, leftOut } = dataset.state !== 'unreadable' && dataset.kind === 'raster' ? bandsOf(found) : NO_BANDS;
  const band = item.band ?? null;
  const composite = item.composite ?? null;
  const arcs = isVector && why === null ? withPlatform(found.folder, (platform) => countArcs(dataset, platform)) : 0;
  const notes = [
    ...renamed,
    ...(moves ? [`its coordinates are computed in ${crs}`] : []),
    ...(doubt ? [doubt] : []),
    ...(item.selection ? [`only records ${selectionWords(item.selection)}`] : []),
    ...(size ? [`${size.width} × ${size.height} pixels, in their own CRS, with all coarser zooms`] : []),
    ...(dataset.kind !== 'table' && !moves ? crsNote(dataset.crs) : []),
    ...encodingNote(found),
    ...(parts.length > 1 ? [`it has ${parts.join(' and ')}: one table for all of them, or one for each`] : []),
    ...(dataset.fields?.some((f) => f.type === 'json') ? ['lists and objects become text'] : []),
    ...(arcs > 0 && !moves ? [`${arcs} of its shapes have arcs, which stay arcs unless shapes are made valid`] : []),
  ];
  return {
    dataset: item.dataset,
    part: item.part,
    parts,
    table,
    replaces: item.replaces ?? false,
    selection: item.selection ?? null,
    kind: dataset.kind === 'raster' ? 'raster' : isVector ? 'features' : 'attributes',
    geometry: item.part === null ? dataset.geometryType : KIND[item.part],
    records: item.part === null ? (selected ?? dataset.featureCount) : null,
    crs: dataset.kind === 'table' ? null : moves ? crs : (dataset.crs?.code ?? null),
    notes,
    bands: bands > 1 ? bands : 0,
    band,
    composite,
    losses:
      why !== null
        ? []
        : composite
          ? compositeLosses(bands, composite, isBytes, null)
          : band !== null
            ? withoutOthers(leftOut, bands - bandsChosen)
            : [...leftOut, ...(moves ? arcsLost(arcs) : [])],
    reading: why === null ? textReadingOf(found) : null,
    why,
  };
}

function crsNote(crs: Crs | null): string[] {
  if (crs?.code) return [];
  return crs?.wkt
    ? [`its CRS${crs.name === null ? '' : `, ${crs.name},`} has no code that is registered; its definition goes along`]
    : ['nobody knows its CRS, and the table will say so'];
}

const KIND: Readonly<Record<ShapePart, string>> = { points: 'Point', lines: 'LineString', areas: 'Polygon', others: 'Geometry' };

interface Bands {
  readonly bands: number;
  readonly isBytes: boolean;
  readonly leftOut: readonly Loss[];
}
const NO_BANDS: Bands = { bands: 0, isBytes: false, leftOut: [] };

/** Bands that have numbers, and what of the raster does not come along. */
const bandsOf = ({ folder, dataset: { group, raster } }: FoundDataset): Bands =>
  withPlatform(folder, (platform) => {
    const pixels = group.format === 'geotiff' ? tiffPixels(group, platform) : null;
    if (pixels) return { bands: pixels.bands, isBytes: pixels.isBytes ?? false, leftOut: pixels.leftOut ?? [] };
    const isDeep = group.format === 'image' && isDeepPng(platform.open(group.path).read(0, PNG_HEAD_BYTES));
    return { ...NO_BANDS, leftOut: [...(isDeep ? [DEEP_PNG] : []), ...maskLost(group, raster, platform)] };
  });

/** Where bands are chosen, the others stay behind, and so do the colours. */
const withoutOthers = (leftOut: readonly Loss[], others: number): Loss[] => [
  ...lossOf('bands', others, 'other band', 'other bands'),
  ...leftOut.filter((l) => l.code !== 'bands' && l.code !== 'palette'),
];

const PNG_HEAD_BYTES = 26;
const DEEP_PNG: Loss = { code: 'digits', what: 'digits beyond the 8 bits of a picture (it has 16)', count: null };

/** 16 bits a sample: byte 24 of a PNG (RFC 2083, 4.1.1). It is drawn as a picture of 8. */
const isDeepPng = (head: Uint8Array): boolean => head[0] === 0x89 && head[1] === 0x50 && head[24] === 16;

function withPlatform<T>(folder: string, use: (platform: NodePlatform) => T): T {
  const platform = platformBelow(folder);
  try {
    return use(platform);
  } finally {
    platform.close();
  }
}

function mixed({ folder, dataset }: FoundDataset): ShapePart[] {
  const parts = withPlatform(folder, (platform) => partsOf(dataset, platform));
  return parts.length > 1 ? parts : [];
}

/** How the text of a table is read, where it is not what every program writes today. */
function encodingNote({ folder, dataset: { group } }: FoundDataset): string[] {
  const table =
    group.format === 'dbf'
      ? group.path
      : group.format === 'shapefile'
        ? group.companions.find((c) => /\.dbf$/i.test(c.path))?.path
        : undefined;
  if (table === undefined) return [];
  const read = withPlatform(folder, (platform) => readTableForRows(table, group, (path) => platform.open(path))?.encoding);
  return !read || /^utf-?8$/i.test(read.name) ? [] : [`its text is read as ${read.name}, and written as UTF-8`];
}
