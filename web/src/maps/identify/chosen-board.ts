import type { DrawnShape } from '@rootmap/core/contract';
import Feature from 'ol/Feature.js';
import type Geometry from 'ol/geom/Geometry.js';
import MultiLineString from 'ol/geom/MultiLineString.js';
import MultiPoint from 'ol/geom/MultiPoint.js';
import PointGeometry from 'ol/geom/Point.js';
import Polygon, { fromExtent } from 'ol/geom/Polygon.js';
import VectorLayer from 'ol/layer/Vector.js';
import type OlMap from 'ol/Map.js';
import VectorSource from 'ol/source/Vector.js';
import { Circle, Fill, RegularShape, Stroke, Style } from 'ol/style.js';
import type { Point } from '../edit/map-plane.js';

const ABOVE_ALL = 30_500;

export interface BoardColours {
  readonly mark: string;
  readonly paper: string;
}

/** What is chosen, above the map: its shapes, and a cross where it was asked. */
export class ChosenBoard {
  private readonly shapes = new VectorSource({ wrapX: false });
  private readonly asked = new VectorSource({ wrapX: false });
  private readonly layers: readonly VectorLayer[];

  constructor(
    private readonly map: OlMap,
    colours: BoardColours,
  ) {
    this.layers = [
      new VectorLayer({ source: this.shapes, zIndex: ABOVE_ALL, style: shapeStyles(colours) }),
      new VectorLayer({ source: this.asked, zIndex: ABOVE_ALL + 1, style: crossStyles(colours) }),
    ];
    for (const layer of this.layers) map.addLayer(layer);
  }

  show(shapes: readonly DrawnShape[], at: Point | null): void {
    this.shapes.clear();
    this.shapes.addFeatures(shapes.map((s) => new Feature(geometryOf(s))));
    this.asked.clear();
    if (at) this.asked.addFeature(new Feature(new PointGeometry([...at])));
  }

  dispose(): void {
    for (const layer of this.layers) this.map.removeLayer(layer);
  }
}

function geometryOf({ kind, runs, box }: DrawnShape): Geometry {
  if (runs === null) return fromExtent([...box]);
  const parts = runs.map((run) => Array.from({ length: run.length / 2 }, (_, i) => [run[i * 2]!, run[i * 2 + 1]!]));
  if (kind === 'point') return new MultiPoint(parts.flat());
  return kind === 'line' ? new MultiLineString(parts) : new Polygon(parts);
}

function shapeStyles({ mark, paper }: BoardColours): Style[] {
  const image = (radius: number, color: string, width: number): Circle => new Circle({ radius, stroke: new Stroke({ color, width }) });
  return [
    new Style({ stroke: new Stroke({ color: paper, width: 7 }), image: image(9, paper, 6) }),
    new Style({ stroke: new Stroke({ color: mark, width: 3 }), fill: new Fill({ color: `${mark}33` }), image: image(9, mark, 3) }),
  ];
}
const CROSS_PIXELS = 8;
/** A cross of the same size at every scale. */
const crossStyles = ({ mark, paper }: BoardColours): Style[] =>
  [
    { color: paper, width: 4 },
    { color: mark, width: 1.6 },
  ].map((stroke) => new Style({ image: new RegularShape({ points: 4, radius: CROSS_PIXELS, radius2: 0, stroke: new Stroke(stroke) }) }));
