import Feature from 'ol/Feature.js';
import LineString from 'ol/geom/LineString.js';
import MultiPoint from 'ol/geom/MultiPoint.js';
import Polygon from 'ol/geom/Polygon.js';
import Draw from 'ol/interaction/Draw.js';
import VectorLayer from 'ol/layer/Vector.js';
import type OlMap from 'ol/Map.js';
import VectorSource from 'ol/source/Vector.js';
import { Circle, Fill, Stroke, Style } from 'ol/style.js';
import type { Point } from '../edit/map-plane.js';

const ABOVE_ALL = 31_000;

/** The corners that are set so far, the last one where the pointer is. */
type Told = (corners: readonly Point[], isDone: boolean) => void;

/** A line or an area that is drawn over the map to be measured, and nothing else. */
export class MeasureBoard {
  private readonly source = new VectorSource({ wrapX: false });
  private readonly layer: VectorLayer;
  private readonly draw: Draw;

  constructor(
    private readonly map: OlMap,
    isArea: boolean,
    colours: { readonly line: string; readonly paper: string },
    private readonly told: Told,
  ) {
    const style = styles(colours);
    this.layer = new VectorLayer({ source: this.source, zIndex: ABOVE_ALL, style });
    this.draw = new Draw({ source: this.source, type: isArea ? 'Polygon' : 'LineString', stopClick: true, style });
    this.draw.on('drawstart', ({ feature }) => {
      this.source.clear();
      feature.getGeometry()?.on('change', () => told(cornersOf(feature), false));
    });
    this.draw.on('drawend', ({ feature }) => told(cornersOf(feature), true));
    this.draw.on('drawabort', () => told([], false));
    map.addLayer(this.layer);
    map.addInteraction(this.draw);
  }

  /** Sets corners that were typed, or drawn before. */
  add(corners: readonly Point[]): void {
    if (corners.length > 0) this.draw.appendCoordinates(corners.map((c) => [...c]));
  }
  back(): void {
    this.draw.removeLastPoint();
  }
  finish(): void {
    this.draw.finishDrawing();
  }
  clear(): void {
    this.draw.abortDrawing();
    this.source.clear();
    this.told([], false);
  }
  dispose(): void {
    this.map.removeInteraction(this.draw);
    this.map.removeLayer(this.layer);
  }
}

function styles({ line, paper }: { readonly line: string; readonly paper: string }): Style[] {
  const corner = new Circle({ radius: 4, fill: new Fill({ color: paper }), stroke: new Stroke({ color: line, width: 2 }) });
  return [
    new Style({ stroke: new Stroke({ color: paper, width: 5 }) }),
    new Style({ stroke: new Stroke({ color: line, width: 2.5, lineDash: [9, 5] }), fill: new Fill({ color: `${line}26` }) }),
    new Style({ image: corner, geometry: (f) => new MultiPoint(cornersOf(f as Feature).map((c) => [...c])) }),
  ];
}

/** The corners of a shape without those that stand where the one before does; round an area the first one follows the last. */
function cornersOf(feature: Feature): readonly Point[] {
  const geometry = feature.getGeometry();
  if (geometry instanceof Polygon) return withoutDoubles(geometry.getCoordinates()[0] ?? [], true);
  return geometry instanceof LineString ? withoutDoubles(geometry.getCoordinates(), false) : [];
}

function withoutDoubles(all: readonly number[][], isRound: boolean): readonly Point[] {
  const corners: Point[] = [];
  for (const [x, y] of all) {
    const last = corners.at(-1);
    if (x !== undefined && y !== undefined && !(last && last[0] === x && last[1] === y)) corners.push([x, y]);
  }
  const [first, last] = [corners[0], corners.at(-1)];
  return isRound && corners.length > 1 && first![0] === last![0] && first![1] === last![1] ? corners.slice(0, -1) : corners;
}
