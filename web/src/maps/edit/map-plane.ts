import { distortionAt, resolutionOf, scaleOf, unitMetres } from '@rootmap/core';
import type { MapCrsView } from '@rootmap/core/contract';
import Projection from 'ol/proj/Projection.js';
import proj4, { type Converter } from 'proj4';

export type Point = readonly [number, number];

/** The plane that a map is drawn on: its CRS, and what a pixel of it is on the ground. */
export class MapPlane {
  readonly projection: Projection;
  readonly unit: number;
  private readonly converter: Converter | null;

  constructor(readonly crs: MapCrsView | null) {
    const isDegrees = crs?.unit === 'degree';
    this.unit = crs?.proj4 ? unitMetres(crs.proj4) : 1;
    // Coordinates are those of the tiles: nothing is computed by the map itself, so that any CRS is drawn.
    this.projection = new Projection({ code: `rootmap:${crs?.code ?? 'unknown'}`, units: isDegrees ? 'degrees' : 'm', global: false });
    this.converter = crs?.proj4 ? proj4('+proj=longlat +datum=WGS84 +no_defs', crs.proj4) : null;
  }

  get isDegrees(): boolean {
    return this.crs?.unit === 'degree';
  }

  /** Degrees east and north to the map's plane; null: there is no such point. */
  toPlane([longitude, latitude]: Point): Point | null {
    return this.converter ? finite(attempt(() => this.converter!.forward([longitude, latitude]))) : null;
  }
  toDegrees([x, y]: Point): Point | null {
    return this.converter ? finite(attempt(() => this.converter!.inverse([x, y]))) : null;
  }

  /** Scale of the projection along a bar that points east, at a point of the plane. */
  private k(at: Point): number {
    const spot = this.toDegrees(at);
    if (!spot || Math.abs(spot[1]) > 89) return 1;
    const forward = (x: number, y: number): Point | null => {
      const p = this.toPlane([x, y]);
      return p && [p[0] * this.unit, p[1] * this.unit];
    };
    return distortionAt(forward, spot[0], spot[1])?.k ?? 1;
  }

  /** 1:n on the ground, at a point, where a pixel is `resolution` units of the CRS. */
  scale(resolution: number, at: Point): number {
    return scaleOf(resolution, this.unit, this.k(at));
  }
  resolution(scale: number, at: Point): number {
    return resolutionOf(scale, this.unit, this.k(at));
  }
  /** Metres on the ground of one pixel. */
  metresOfPixel(resolution: number, at: Point): number {
    return (resolution * this.unit) / this.k(at);
  }

  /** The box of a box in degrees, from points along its edges; null: none of it is in the plane. */
  boxOf([west, south, east, north]: readonly [number, number, number, number]): [number, number, number, number] | null {
    const points: Point[] = [];
    for (let i = 0; i <= 8; i++) {
      const [x, y] = [west + (i / 8) * (east - west), south + (i / 8) * (north - south)];
      for (const spot of [
        [x, south],
        [x, north],
        [west, y],
        [east, y],
      ] as const) {
        const p = this.toPlane(spot);
        if (p) points.push(p);
      }
    }
    if (points.length === 0) return null;
    const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
    return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
  }
}

/** What a projection gives; null: it throws, for it has no such point. */
export function attempt(compute: () => unknown): Point | null {
  try {
    return compute() as Point;
  } catch {
    return null;
  }
}
const finite = (p: Point | null): Point | null => (p && Number.isFinite(p[0]) && Number.isFinite(p[1]) ? [p[0], p[1]] : null);
