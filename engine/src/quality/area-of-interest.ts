import GeoJSONReader from 'jsts/org/locationtech/jts/io/GeoJSONReader.js';
import GeometryFactory from 'jsts/org/locationtech/jts/geom/GeometryFactory.js';
import Coordinate from 'jsts/org/locationtech/jts/geom/Coordinate.js';
import Location from 'jsts/org/locationtech/jts/geom/Location.js';
import IndexedPointInAreaLocator from 'jsts/org/locationtech/jts/algorithm/locate/IndexedPointInAreaLocator.js';
import RelateOp from 'jsts/org/locationtech/jts/operation/relate/RelateOp.js';
import Flatbush from 'flatbush';
import { mapWkb, ProblemError, readFeatures, readWkb, wkbToGeoJson, type Dataset, type Extent } from '@rootmap/core';
import { crsKey } from '../crs/definitions.js';
import { transformer } from '../crs/transformer.js';
import { join } from '../disk/native-path.js';
import { findDataset, type FoundDataset } from '../project/find-dataset.js';
import type { RootedScope } from '../project/scope.js';
import { platformBelow } from '../survey/platform.js';

/** The id of the dataset that a project names as its area; null: it names none. */
export function areaId({ root, project }: RootedScope): string | null {
  const named = project?.quality.area ?? null;
  return named === null ? null : join(root, named); // a `#` may be of the name or before a table: the id has both alike
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
  readonly reaches: ((shape: () => unknown, corner: readonly [number, number], box: Extent) => boolean) | null;
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
    const near = parts.filter((part) => meets(part.box, box));
    if (near.length === 0) return false;
    const corner = cornerOf(wkb);
    let shape: unknown = null;
    const read = (): unknown => (shape ??= reader.read(wkbToGeoJson(wkb)));
    return near.some((part) => !part.reaches || part.reaches(read, corner, box));
  };
}

/** The first corner of a shape. */
function cornerOf(wkb: Uint8Array): readonly [number, number] {
  let corner: readonly [number, number] | null = null;
  readWkb(wkb, { geometry: () => undefined, run: () => undefined, vertex: (x, y) => (corner ??= [x, y]) });
  return corner ?? [NaN, NaN];
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
      parts.push({ box, reaches: corners > MOST_CORNERS ? null : prepared(reader.read(json), moved) });
    }
  } finally {
    platform.close();
  }
  return parts;
}

/**
 * Quick where it is clear: a corner of the shape lies in the area, or no edge of the area comes near the shape. Only what is near an edge
 * is worked out with all corners.
 */
function prepared(shape: unknown, wkb: Uint8Array): Part['reaches'] {
  const inside = new IndexedPointInAreaLocator(shape);
  const edges = edgesOf(wkb);
  return (other, corner, [minx, miny, maxx, maxy]) => {
    if (inside.locate(new Coordinate(corner[0], corner[1])) !== Location.EXTERIOR) return true;
    if (edges.search(minx, miny, maxx, maxy).length === 0) return false;
    try {
      return RelateOp.intersects(shape, other()) as boolean;
    } catch {
      return true; // a shape that breaks the rules is told by another check
    }
  };
}

/** The boxes of all edges. */
function edgesOf(wkb: Uint8Array): Flatbush {
  const ends: number[] = [];
  let last: readonly [number, number] | null = null;
  readWkb(wkb, {
    geometry: () => undefined,
    run: () => (last = null),
    vertex: (x, y) => {
      if (last) ends.push(...last, x, y);
      last = [x, y];
    },
  });
  const index = new Flatbush(Math.max(1, ends.length / 4));
  if (ends.length === 0) index.add(0, 0, 0, 0);
  for (let i = 0; i + 3 < ends.length; i += 4) {
    const [ax, ay, bx, by] = [ends[i]!, ends[i + 1]!, ends[i + 2]!, ends[i + 3]!];
    index.add(Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by));
  }
  index.finish();
  return index;
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
