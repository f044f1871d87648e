import type { DrawnGeometry, DrawnKind } from '@rootmap/core/contract';
import Feature from 'ol/Feature.js';
import GeoJSON from 'ol/format/GeoJSON.js';
import type Geometry from 'ol/geom/Geometry.js';
import Draw from 'ol/interaction/Draw.js';
import type Interaction from 'ol/interaction/Interaction.js';
import Modify from 'ol/interaction/Modify.js';
import Select from 'ol/interaction/Select.js';
import Snap from 'ol/interaction/Snap.js';
import Translate from 'ol/interaction/Translate.js';
import VectorLayer from 'ol/layer/Vector.js';
import type OlMap from 'ol/Map.js';
import VectorSource from 'ol/source/Vector.js';
import { Circle, Fill, Stroke, Style } from 'ol/style.js';
import type { EditedRecord } from './edit-session.js';

export type Tool = 'draw' | 'reshape' | 'move' | 'choose';
const format = new GeoJSON();
const SNAP_PIXELS = 12;
const ABOVE_ALL = 30_000;

export interface BoardCalls {
  readonly onDrawn: (geometry: DrawnGeometry) => void;
  readonly onReshaped: (shapes: ReadonlyMap<number, DrawnGeometry>) => void;
  readonly onChosen: (key: number | null) => void;
}

/** The shapes that are edited, over the map: drawn, reshaped, moved and chosen with the pointer, snapping to one another. */
export class DrawingBoard {
  private readonly source = new VectorSource({ wrapX: false });
  private readonly layer: VectorLayer;
  private readonly shown = new Map<number, { readonly geometry: DrawnGeometry | null; readonly feature: Feature<Geometry> }>();
  private interactions: Interaction[] = [];
  private chosen: number | null = null;

  constructor(
    private readonly map: OlMap,
    private readonly kind: DrawnKind,
    private readonly calls: BoardCalls,
    private readonly colours: { readonly plain: string; readonly chosen: string; readonly paper: string },
  ) {
    this.layer = new VectorLayer({ source: this.source, zIndex: ABOVE_ALL, style: (f) => this.style(f.getId() === this.chosen) });
    map.addLayer(this.layer);
  }

  private style(isChosen: boolean): Style[] {
    const colour = isChosen ? this.colours.chosen : this.colours.plain;
    const stroke = new Stroke({ color: colour, width: isChosen ? 3 : 2 });
    const image = new Circle({
      radius: isChosen ? 6 : 5,
      fill: new Fill({ color: colour }),
      stroke: new Stroke({ color: this.colours.paper, width: 1.5 }),
    });
    return [new Style({ stroke, fill: new Fill({ color: `${colour}33` }), image })];
  }

  /** Draws the records as they are now; shapes that are the same stay. */
  show(records: readonly EditedRecord[], chosen: number | null): void {
    const keep = new Set(records.map((r) => r.key));
    for (const [key, { feature }] of this.shown)
      if (!keep.has(key)) {
        this.source.removeFeature(feature);
        this.shown.delete(key);
      }
    for (const r of records) {
      const old = this.shown.get(r.key);
      if (old?.geometry === r.geometry) continue;
      if (old) this.source.removeFeature(old.feature);
      if (!r.geometry) {
        this.shown.delete(r.key);
        continue;
      }
      const feature = new Feature<Geometry>(format.readGeometry(r.geometry) as Geometry);
      feature.setId(r.key);
      this.source.addFeature(feature);
      this.shown.set(r.key, { geometry: r.geometry, feature });
    }
    this.chosen = chosen;
    this.layer.changed();
  }

  use(tool: Tool): void {
    this.clear();
    const told = (features: readonly Feature<Geometry>[]): void =>
      this.calls.onReshaped(
        new Map(features.flatMap((f) => (typeof f.getId() === 'number' ? [[f.getId() as number, geometryOf(f)] as const] : []))),
      );
    if (tool === 'draw') {
      const draw = new Draw({ source: new VectorSource(), type: this.kind, stopClick: true });
      draw.on('drawend', (e) => this.calls.onDrawn(geometryOf(e.feature)));
      this.add(draw);
    } else if (tool === 'reshape') {
      const modify = new Modify({ source: this.source });
      modify.on('modifyend', (e) => told(e.features.getArray()));
      this.add(modify);
    } else if (tool === 'move') {
      const translate = new Translate({ layers: [this.layer] });
      translate.on('translateend', (e) => told(e.features.getArray()));
      this.add(translate);
    } else {
      const select = new Select({ layers: [this.layer], style: null, hitTolerance: 6 });
      select.on('select', (e) => {
        const id = e.selected[0]?.getId();
        this.calls.onChosen(typeof id === 'number' ? id : null);
      });
      this.add(select);
    }
    if (tool !== 'choose') this.add(new Snap({ source: this.source, pixelTolerance: SNAP_PIXELS }));
  }

  private add(interaction: Interaction): void {
    this.map.addInteraction(interaction);
    this.interactions.push(interaction);
  }
  private clear(): void {
    for (const i of this.interactions) this.map.removeInteraction(i);
    this.interactions = [];
  }
  dispose(): void {
    this.clear();
    this.map.removeLayer(this.layer);
  }
}

function geometryOf(feature: Feature<Geometry>): DrawnGeometry {
  const { type, coordinates } = format.writeGeometryObject(feature.getGeometry()!) as unknown as DrawnGeometry;
  return { type, coordinates };
}
