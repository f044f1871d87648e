import { landOf, type Land } from '@rootmap/core';
import { feature } from 'topojson-client';
import type { GeometryCollection, Topology } from 'topojson-specification';

/** The land of the Earth (the `world-atlas` package, 1:50,000,000). */
export async function loadLand(): Promise<Land> {
  const land = (await import('world-atlas/land-50m.json', { with: { type: 'json' } })).default as unknown as Topology<{
    land: GeometryCollection;
  }>;
  return landOf(feature(land, land.objects.land).features.map((f) => f.geometry));
}
