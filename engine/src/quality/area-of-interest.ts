import GeoJSONReader from 'jsts/org/locationtech/jts/io/GeoJSONReader.js';
import GeometryFactory from 'jsts/org/locationtech/jts/geom/GeometryFactory.js';
import PreparedGeometryFactory from 'jsts/org/locationtech/jts/geom/prep/PreparedGeometryFactory.js';
import { datasetId, mapWkb, ProblemError, readFeatures, readWkb, wkbToGeoJson, type Dataset, type Extent } from '@rootmap/core';
import { crsKey } from '../crs/definitions.js';
import { transformer } from '../crs/transformer.js';
import { join } from '../disk/native-path.js';
import { findDataset, type FoundDataset } from '../project/find-dataset.js';
import type { RootedScope } from '../project/scope.js';
import { platformBelow } from '../survey/platform.js';

/** The id of the dataset that a project names as its area; null: it names none. */
export function areaId({ root, project }: RootedScope): string | null {
  const named = project?.quality.area ?? null;
  if (named === null) return null;
  const [path, table] = named.split(/#(?=[^/]*$)/) as [string, string?];
  return datasetId(join(root, path), table ?? null);
}

/** The dataset of areas that a project is about; null: it names none. Throws `not-found`, and `wrong-use` where it has no areas. */
export function areaOfProject(scope: RootedScope): FoundDataset | null {
  const id = areaId(scope);
  if (id === null) return null;
  const found = findDataset(scope, id);
  assertAreas(found);
  return found;
}

/** Throws `wrong-use` where a dataset has no areas. */
export function assertAreas({ dataset }: FoundDataset): void {
  if (/Polygon/.test(dataset.geometryType ?? '')) return;
  throw new ProblemError({
    code: 'wrong-use',
    message: `${dataset.id} has no areas, so it cannot be what the project is about. Choose another.`,
  });
}

type Reaches = (wkb: Uint8Array, box: Extent) => boolean;
/** An area of more corners than this is taken by the boxes of its shapes. */
const MOST_CORNERS = 200_000;

interface Part {
  readonly box: Extent;
  /** Null: its box is taken for it. */
  readonly reaches: ((shape: unknown) => boolean) | null;
}

/**
 * Whether a shape in the CRS of a dataset reaches into the area. Null: one of the two CRSs is not known, so that it cannot be told.
 * Edges are drawn straight in the dataset's CRS.
 */
export function reachesInto(area: FoundDataset, dataset: Dataset): Reaches | null {
  const [from, to] = [crsKey(area.dataset.crs), crsKey(dataset.crs)];
  const shift = from === null || to === null ? null : transformer(from, to);
  if (!shift) return null;
  const reader = new GeoJSONReader(new GeometryFactory());
  const parts = partsOf(area, shift, reader);
  return (wkb, box) => {
    let shape: unknown = null;
    return parts.some((part) => {
      if (!meets(part.box, box)) return false;
      if (!part.reaches) return true;
      const json = shape === null ? wkbToGeoJson(wkb) : null;
      shape ??= json && reader.read(json);
      return shape === null || part.reaches(shape);
    });
  };
}

function partsOf(
  { folder, dataset }: FoundDataset,
  shift: (x: number, y: number) => readonly [number, number] | null,
  reader: GeoJSONReader,
): Part[] {
  const parts: Part[] = [];
  const platform = platformBelow(folder);
  let corners = 0;
  try {
    for (const { geometry } of readFeatures(dataset, platform, { geometry: true, values: false }).features) {
      const moved = geometry && mapWkb(geometry, shift);
      const json = moved && wkbToGeoJson(moved);
      if (!moved || !json) continue;
      const { box, vertices } = boxOf(moved);
      corners += vertices;
      parts.push({ box, reaches: corners > MOST_CORNERS ? null : prepared(reader.read(json)) });
    }
  } finally {
    platform.close();
  }
  return parts;
}

function prepared(shape: unknown): Part['reaches'] {
  const area = PreparedGeometryFactory.prepare(shape);
  return (other) => {
    try {
      return area.intersects(other);
    } catch {
      return true; // a shape that breaks the rules is told by another check
    }
  };
}

function boxOf(wkb: Uint8Array): { readonly box: Extent; readonly vertices: number } {
  let [minx, miny, maxx, maxy, vertices] = [Infinity, Infinity, -Infinity, -Infinity, 0];
  readWkb(wkb, {
    geometry: () => undefined,
    run: () => undefined,
    vertex: (x, y) => {
      [minx, miny, maxx, maxy] = [Math.min(minx, x), Math.min(miny, y), Math.max(maxx, x), Math.max(maxy, y)];
      vertices++;
    },
  });
  return { box: [minx, miny, maxx, maxy], vertices };
}

const meets = (a: Extent, b: Extent): boolean => a[0] <= b[2] && b[0] <= a[2] && a[1] <= b[3] && b[1] <= a[3];
