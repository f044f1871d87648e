import { landOf, landRings, type Land } from '@rootmap/core';
import Feature from 'ol/Feature.js';
import MultiPolygon from 'ol/geom/MultiPolygon.js';
import { feature } from 'topojson-client';
import type { GeometryCollection, Topology } from 'topojson-specification';
import type { MapPlane } from './map-plane.js';

/** The land of the Earth. Its outline is good from about 1:1,000,000 outwards. */
export async function loadLand(): Promise<Land> {
  const land = (await import('world-atlas/land-50m.json')).default as unknown as Topology<{ land: GeometryCollection }>;
  return landOf(feature(land, land.objects.land).features.map((f) => f.geometry));
}

/** The land in a map's plane; null where its CRS cannot be computed. */
export async function landIn(plane: MapPlane): Promise<Feature<MultiPolygon> | null> {
  if (!plane.crs?.proj4) return null;
  const rings = landRings(await loadLand(), plane, plane.crs.bounds);
  return new Feature(new MultiPolygon(rings.map((r) => [r.map(([x, y]) => [x, y])])));
}
