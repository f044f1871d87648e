import { FINEST_LAND, isInScale, type Label, type Look } from '@rootmap/core';
import { rulesOfLook } from '@rootmap/core';
import type { LayerPictureView } from '@rootmap/core/contract';
import { defaults as defaultControls } from 'ol/control/defaults.js';
import Feature, { type FeatureLike } from 'ol/Feature.js';
import MVT from 'ol/format/MVT.js';
import { fromExtent } from 'ol/geom/Polygon.js';
import type BaseLayer from 'ol/layer/Base.js';
import TileLayer from 'ol/layer/Tile.js';
import VectorLayer from 'ol/layer/Vector.js';
import VectorTileLayer from 'ol/layer/VectorTile.js';
import OlMap from 'ol/Map.js';
import ImageTile from 'ol/source/ImageTile.js';
import VectorSource from 'ol/source/Vector.js';
import VectorTileSource from 'ol/source/VectorTile.js';
import { Fill, Stroke, Style } from 'ol/style.js';
import TileGrid from 'ol/tilegrid/TileGrid.js';
import View from 'ol/View.js';
import 'ol/ol.css';
import type { MapPlane, Point } from './map-plane.js';
import { labelStyle, shapeStyle } from './ol-symbols.js';
import { landIn } from './land-outline.js';
import { serviceLayer, type ServiceDrawing } from './service-layers.js';

const TILE = 256;
const FONT = 'Commissioner Variable, sans-serif';
/** Labels stand over all shapes. */
const LABELS_AT = 10_000;

/** A layer as it is drawn. */
export interface SceneLayer {
  readonly id: string;
  readonly active: boolean;
  readonly opacity: number;
  readonly minScale: number | null;
  readonly maxScale: number | null;
  readonly look: Look;
  readonly label: Label | null;
  /** Null: it is not ready, and its outline is drawn. */
  readonly picture: LayerPictureView | null;
  /** Where it draws on a service; null: it does not. */
  readonly service: ServiceDrawing | null;
  /** Of its data, in the map's plane; null: not known. */
  readonly box: readonly [number, number, number, number] | null;
}
export interface SceneColours {
  readonly land: string;
  readonly shore: string;
  readonly outline: string;
}

interface Drawn {
  readonly key: string;
  readonly shapes: BaseLayer;
  readonly labels: VectorTileLayer | null;
  layer: SceneLayer;
}

/** Something of it can be drawn. */
export const isReady = (l: Pick<SceneLayer, 'picture' | 'service'>): boolean => l.picture !== null || l.service !== null;

/** The map on the screen: layers of tiles in one plane, drawn as a draft says. */
export class MapScene {
  readonly map: OlMap;
  private readonly drawn = new Map<string, Drawn>();
  private readonly land = new VectorLayer({ source: new VectorSource({ wrapX: false }), zIndex: -2 });
  private readonly outlines = new VectorLayer({ source: new VectorSource({ wrapX: false }), zIndex: LABELS_AT + 1 });
  private isDisposed = false;

  private readonly isStill: boolean;

  /** @param isStill nobody moves it: what lies around it is not fetched, and its element goes with it */
  constructor(
    private readonly element: HTMLElement | undefined,
    readonly plane: MapPlane,
    private readonly pictureUrl: (layer: string, href: string) => string | null,
    { isStill = false, pixelRatio }: { isStill?: boolean; pixelRatio?: number } = {},
  ) {
    this.isStill = isStill;
    this.map = new OlMap({
      ...(element ? { target: element } : {}),
      ...(pixelRatio ? { pixelRatio } : {}),
      layers: [this.land, this.outlines],
      controls: isStill ? [] : defaultControls({ attribution: false, rotate: false }),
      ...(isStill ? { interactions: [] } : {}),
      view: new View({
        projection: plane.projection,
        center: [0, 0],
        resolution: 1,
        minResolution: 1e-4 / plane.unit,
        maxResolution: 200_000 / plane.unit,
        constrainResolution: false,
        enableRotation: false,
      }),
    });
    this.map.getView().on('change:resolution', () => this.applyLimits());
  }

  get center(): Point {
    const [x, y] = this.map.getView().getCenter() ?? [0, 0];
    return [x!, y!];
  }
  get resolution(): number {
    return this.map.getView().getResolution() ?? 1;
  }
  /** 1:n on the ground in the middle of the map. */
  get scale(): number {
    return this.plane.scale(this.resolution, this.center);
  }

  goTo(center: Point, scale: number | null = null): void {
    const view = this.map.getView();
    view.setCenter([...center]);
    if (scale !== null) view.setResolution(this.plane.resolution(scale, center));
  }
  fit(box: readonly [number, number, number, number]): void {
    const [minx, miny, maxx, maxy] = box;
    const around = Math.max(maxx - minx, maxy - miny) * 0.02 || 100 / this.plane.unit;
    this.map.getView().fit([minx - around, miny - around, maxx + around, maxy + around], {
      padding: [10, 10, 10, 10],
      size: this.map.getSize() ?? [800, 600],
    });
  }

  /** Draws what a draft says; what stays the same is left alone, so that nothing flickers. */
  show(layers: readonly SceneLayer[], colours: SceneColours): void {
    const keep = new Set(layers.map((l) => l.id));
    for (const [id, old] of this.drawn) if (!keep.has(id)) this.remove(id, old);
    layers.forEach((layer, i) => this.showLayer(layer, layers.length - i));
    const waiting = layers.filter((l) => l.active && !isReady(l) && l.box);
    const source = this.outlines.getSource()!;
    source.clear();
    source.addFeatures(waiting.map((l) => new Feature(fromExtent([...l.box!]))));
    this.outlines.setStyle(new Style({ stroke: new Stroke({ color: colours.outline, width: 1.2, lineDash: [6, 5] }) }));
    this.land.setStyle(new Style({ fill: new Fill({ color: colours.land }), stroke: new Stroke({ color: colours.shore, width: 1 }) }));
    this.applyLimits();
  }

  /** Their labels, and outlines of those that are not ready, without their shapes. */
  showLabels(layers: readonly SceneLayer[], colours: SceneColours): void {
    this.show(
      layers.filter((l) => l.service === null && (l.label || !l.picture)),
      colours,
    );
    for (const { shapes } of this.drawn.values()) shapes.setVisible(false);
  }

  private remove(id: string, old: Drawn): void {
    this.map.removeLayer(old.shapes);
    if (old.labels) this.map.removeLayer(old.labels);
    this.drawn.delete(id);
  }

  private showLayer(layer: SceneLayer, zIndex: number): void {
    const { picture, service } = layer;
    const key = picture
      ? `${picture.version} ${picture.drawing ?? ''} ${picture.kind} ${layer.label ? 'labels' : ''}`
      : service
        ? `${service.href} ${service.crs} ${service.version}`
        : '';
    let drawn = this.drawn.get(layer.id);
    if (drawn && drawn.key !== key) {
      this.remove(layer.id, drawn);
      drawn = undefined;
    }
    if (!isReady(layer)) return;
    if (!drawn) {
      const made = picture
        ? layersOf(picture, this.plane, layer.label !== null, this.isStill)
        : { shapes: serviceLayer(service!, this.plane, this.isStill, this.styleOf(layer)), labels: null };
      drawn = { key, ...made, layer };
      this.drawn.set(layer.id, drawn);
      this.map.addLayer(drawn.shapes);
      if (drawn.labels) this.map.addLayer(drawn.labels);
      this.restyle(drawn, layer);
    } else if (drawn.layer.look !== layer.look || drawn.layer.label !== layer.label) this.restyle(drawn, layer);
    drawn.layer = layer;
    drawn.shapes.setOpacity(layer.opacity);
    drawn.shapes.setZIndex(zIndex);
    drawn.labels?.setZIndex(LABELS_AT + zIndex - 5000);
  }

  private restyle(drawn: Drawn, layer: SceneLayer): void {
    if (drawn.shapes instanceof VectorLayer) drawn.shapes.setStyle(this.styleOf(layer));
    if (!(drawn.shapes instanceof VectorTileLayer) || layer.look.kind === 'raster') return;
    drawn.shapes.setStyle(this.styleOf(layer));
    if (layer.label) drawn.labels?.setStyle(labelStyle(layer.label, FONT));
  }

  private styleOf(layer: SceneLayer): ReturnType<typeof shapeStyle> {
    const { look, picture } = layer;
    return shapeStyle(
      look.kind === 'raster' ? [] : rulesOfLook(look),
      picture && picture.drawing !== null ? picture.classes : null,
      () => this.scale,
      (href) => this.pictureUrl(layer.id, href),
    );
  }

  private applyLimits(): void {
    const { scale } = this;
    for (const { shapes, labels, layer } of this.drawn.values()) {
      const isShown = layer.active && isInScale(layer, scale);
      shapes.setVisible(isShown);
      labels?.setVisible(isShown);
    }
    this.land.setVisible(this.hasLand && scale >= FINEST_LAND);
  }

  private hasLand = false;
  /** The land outline below everything, where the CRS can be computed. */
  async showLand(isWanted: boolean): Promise<void> {
    const source = this.land.getSource()!;
    if (isWanted && source.getFeatures().length === 0) {
      const land = await landIn(this.plane);
      if (this.isDisposed) return;
      if (land) source.addFeature(land);
    }
    this.hasLand = isWanted;
    this.applyLimits();
  }

  /** Records of servers that are drawn at a pixel, the upper layers first, with their values. */
  recordsOfServices(pixel: readonly number[], reach: number): { layer: string; values: Readonly<Record<string, unknown>> }[] {
    const found: { layer: string; values: Readonly<Record<string, unknown>> }[] = [];
    const ids = new Map<unknown, string>([...this.drawn].map(([id, { shapes }]) => [shapes, id]));
    const read = (feature: FeatureLike, layer: BaseLayer): void => {
      const { geometry: _, ...values } = feature.getProperties();
      found.push({ layer: ids.get(layer)!, values });
    };
    this.map.forEachFeatureAtPixel([...pixel], read, {
      hitTolerance: reach,
      layerFilter: (layer) => layer instanceof VectorLayer && ids.has(layer),
    });
    return found;
  }

  /** What is on the screen as a picture of another size. @param background null: what lies below shows through */
  snapshot(width: number, height: number, background: string | null): HTMLCanvasElement {
    const canvas = document.createElement('canvas');
    canvas.width = width;
    canvas.height = height;
    const context = canvas.getContext('2d')!;
    if (background !== null) {
      context.fillStyle = background;
      context.fillRect(0, 0, width, height);
    }
    const [w = width, h = height] = this.map.getSize() ?? [];
    const fit = Math.max(width / w, height / h);
    for (const layer of this.map.getViewport()?.querySelectorAll<HTMLCanvasElement>('.ol-layer canvas, canvas.ol-layer') ?? []) {
      if (layer.width === 0) continue;
      const opacity = layer.parentElement?.style.opacity;
      context.globalAlpha = opacity ? Number(opacity) : 1;
      const [dw, dh] = [w * fit, h * fit];
      context.drawImage(layer, (width - dw) / 2, (height - dh) / 2, dw, dh);
    }
    return canvas;
  }

  dispose(): void {
    this.isDisposed = true;
    this.map.setTarget(undefined);
    this.map.dispose();
    if (this.isStill) this.element?.remove();
  }
}

function layersOf(
  picture: LayerPictureView,
  { projection }: MapPlane,
  hasLabels: boolean,
  isStill: boolean,
): { shapes: BaseLayer; labels: VectorTileLayer | null } {
  const { square, version, drawing, finestZoom, kind } = picture;
  const coarsest = square.side / TILE;
  const resolutions = Array.from({ length: finestZoom + 1 }, (_, z) => coarsest / 2 ** z);
  const whole = [square.minx, square.maxy - square.side, square.minx + square.side, square.maxy];
  const tileGrid = new TileGrid({ extent: whole, origin: [square.minx, square.maxy], resolutions, tileSize: TILE });
  const url = `/api/tiles/${version}/{z}/{x}/{y}${drawing === null ? '' : `?d=${drawing}`}`;
  if (kind === 'raster')
    return {
      shapes: new TileLayer({
        preload: isStill ? 0 : 2,
        source: new ImageTile({ url, projection, tileGrid, interpolate: false, wrapX: false, transition: 0 }),
      }),
      labels: null,
    };
  const source = new VectorTileSource({ format: new MVT(), url, projection, tileGrid, wrapX: false, transition: 0 });
  return {
    shapes: new VectorTileLayer({ source, declutter: false, preload: isStill ? 0 : 1, renderMode: isStill ? 'vector' : 'hybrid' }),
    labels: hasLabels ? new VectorTileLayer({ source, declutter: true }) : null,
  };
}
