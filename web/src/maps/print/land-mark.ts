import { onPaper, PIXEL_METRES, type Paper, type ShapesMark } from '@rootmap/core';
import MultiPolygon from 'ol/geom/MultiPolygon.js';
import type { MapPlane } from '../edit/map-plane.js';
import { landIn } from '../edit/land-outline.js';

export const LAND_COLOURS = { land: '#efe9da', shore: '#b8ab8a', outline: '#5d6864' };

/** The land outline below a map as a mark; null: it has none there. */
export async function landMark(plane: MapPlane, paper: Paper): Promise<ShapesMark | null> {
  const geometry = (await landIn(plane))?.getGeometry();
  if (!(geometry instanceof MultiPolygon)) return null;
  const runs = geometry.getCoordinates().flatMap((rings) => rings.map((ring) => ring.flatMap(([x, y]) => onPaper(paper, x!, y!))));
  return {
    kind: 'shapes',
    clip: paper.frame,
    isArea: true,
    runs,
    path: null,
    fill: LAND_COLOURS.land,
    fillOpacity: 1,
    stroke: LAND_COLOURS.shore,
    strokeOpacity: 1,
    width: PIXEL_METRES * 1000,
    dash: null,
  };
}
