import { isEastFirst, serviceAddress, type ServiceKind } from '@rootmap/core';
import { all, bbox } from 'ol/loadingstrategy.js';
import GeoJSON from 'ol/format/GeoJSON.js';
import type BaseLayer from 'ol/layer/Base.js';
import TileLayer from 'ol/layer/Tile.js';
import VectorLayer from 'ol/layer/Vector.js';
import { addCoordinateTransforms, fromLonLat, get as projectionNamed, toLonLat } from 'ol/proj.js';
import type Projection from 'ol/proj/Projection.js';
import TileImage from 'ol/source/TileImage.js';
import VectorSource from 'ol/source/Vector.js';
import { createXYZ } from 'ol/tilegrid.js';
import TileGrid from 'ol/tilegrid/TileGrid.js';
import type Tile from 'ol/Tile.js';
import type ImageTile from 'ol/ImageTile.js';
import type { ServiceFeatures } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import type { MapPlane, Point } from './map-plane.js';
import { ServiceQueue } from './service-queue.js';
import type { shapeStyle } from './ol-symbols.js';

/** A layer that draws on a service, as the map draws it. */
export interface ServiceDrawing {
  readonly projectKey: string;
  readonly kind: ServiceKind;
  readonly href: string;
  /** In which CRS its pictures are asked for. */
  readonly crs: string;
  /** Whose it is, as it has to be said beside it. */
  readonly attribution: string | null;
  /** Another one: what was drawn is asked for anew. */
  readonly version: string;
  /** Pieces that did not come. */
  readonly onTrouble: () => void;
  /** Only some of the features in sight are drawn. */
  readonly onPart: (isPart: boolean) => void;
}

/** Which CRS pictures are asked for in: that of the map where the server has it, else one that the map turns them from. */
export function askedIn(mapCrs: string | null, offered: readonly string[]): string {
  if (mapCrs !== null && offered.includes(mapCrs) && (isEastFirst(mapCrs) || mapCrs === 'EPSG:4326')) return mapCrs;
  if (offered.includes('EPSG:3857') || offered.length === 0) return 'EPSG:3857';
  return offered.includes('EPSG:4326') || offered.includes('CRS:84') ? 'EPSG:4326' : 'EPSG:3857';
}

const PIECE = 512;
const FINEST_TILE = 19;

/** Pictures of known projections are turned by way of degrees, which the map's plane computes. */
function connect({
  projection,
  toPlane,
  toDegrees,
}: Pick<MapPlane, 'projection'> & Record<'toPlane' | 'toDegrees', (p: Point) => Point | null>): void {
  const nowhere = [NaN, NaN];
  const mercator = projectionNamed('EPSG:3857')!;
  const degrees = projectionNamed('EPSG:4326')!;
  const forward = (p: number[] | readonly number[]): number[] => [...(toPlane([p[0]!, p[1]!]) ?? nowhere)];
  const back = (p: number[] | readonly number[]): number[] => [...(toDegrees([p[0]!, p[1]!]) ?? nowhere)];
  addCoordinateTransforms(degrees, projection, forward, back);
  addCoordinateTransforms(
    mercator,
    projection,
    (p) => forward(toLonLat(p)),
    (p) => fromLonLat(back(p)),
  );
}

export function serviceLayer(drawing: ServiceDrawing, plane: MapPlane, isStill: boolean, style: ReturnType<typeof shapeStyle>): BaseLayer {
  connect({ projection: plane.projection, toPlane: (p) => plane.toPlane(p), toDegrees: (p) => plane.toDegrees(p) });
  if (drawing.kind === 'features') return featureLayer(drawing, plane, isStill, style);
  const source = drawing.kind === 'tiles' ? tiles(drawing) : pictures(drawing, plane);
  source.on('tileloaderror', () => drawing.onTrouble());
  return new TileLayer({ source, preload: 0 });
}

/** Of all maps of this page: they share the browser's connections. */
const queue = new ServiceQueue();

/** A piece is asked for when it is its turn. */
const inTurn =
  ({ href }: ServiceDrawing) =>
  (tile: Tile, src: string): void => {
    const image = (tile as ImageTile).getImage() as HTMLImageElement;
    queue.run(serviceAddress(href), (done) => {
      image.addEventListener('load', done, { once: true });
      image.addEventListener('error', done, { once: true });
      image.src = src;
    });
  };

const address = ({ projectKey }: ServiceDrawing, what: string, query: Record<string, string>): string =>
  `/api/projects/${projectKey}/services/${what}?${new URLSearchParams(query).toString()}`;

function tiles(drawing: ServiceDrawing): TileImage {
  const tileGrid = createXYZ({ maxZoom: FINEST_TILE });
  return new TileImage({
    projection: 'EPSG:3857',
    tileGrid,
    transition: 0,
    tileLoadFunction: inTurn(drawing),
    tileUrlFunction: ([z, x, y]) => address(drawing, 'tile', { layer: drawing.href, z: String(z), x: String(x), y: String(y) }),
  });
}

function pictures(drawing: ServiceDrawing, plane: MapPlane): TileImage {
  const { crs } = drawing;
  const isOwn = crs === plane.crs?.code;
  const projection: Projection | string = isOwn ? plane.projection : crs;
  const coarsest = 200_000 / plane.unit;
  const tileGrid = isOwn
    ? new TileGrid({ origin: [0, 0], resolutions: Array.from({ length: 30 }, (_, z) => coarsest / 2 ** z), tileSize: PIECE })
    : createXYZ({ extent: projectionNamed(crs)!.getExtent(), tileSize: PIECE, maxZoom: 22 });
  return new TileImage({
    projection,
    tileGrid,
    transition: 0,
    tileLoadFunction: inTurn(drawing),
    tileUrlFunction: (at) =>
      address(drawing, 'picture', {
        layer: drawing.href,
        crs,
        box: tileGrid.getTileCoordExtent(at).join(','),
        width: String(PIECE),
        height: String(PIECE),
      }),
  });
}

/** Records of a service, drawn where the map is; asked for by the box in degrees. */
function featureLayer(drawing: ServiceDrawing, plane: MapPlane, isStill: boolean, style: ReturnType<typeof shapeStyle>): BaseLayer {
  const format = new GeoJSON();
  const source: VectorSource = new VectorSource({
    wrapX: false,
    strategy: isStill ? all : bbox,
    loader: (extent, _resolution, _projection, done, failed) => {
      const box = boxInDegrees(extent, plane);
      const asked = new Promise<ServiceFeatures>((resolve, reject) =>
        queue.run(
          serviceAddress(drawing.href),
          (over) => void api.serviceFeatures(drawing.projectKey, drawing.href, box).then(resolve, reject).finally(over),
        ),
      );
      asked.then(
        ({ document, isPart }) => {
          drawing.onPart(isPart);
          const read = format.readFeatures(document, { dataProjection: 'EPSG:4326', featureProjection: plane.projection });
          // Boxes overlap as the map moves: what has an id comes once.
          const fresh = read.filter((f) => f.getId() === undefined || source.getFeatureById(f.getId()!) === null);
          source.addFeatures(fresh);
          done?.(fresh);
        },
        () => {
          source.removeLoadedExtent(extent);
          drawing.onTrouble();
          failed?.();
        },
      );
    },
  });
  return new VectorLayer({ source, style: style as never });
}

/** The box in degrees of a box of the plane. */
export function boxInDegrees([minx, miny, maxx, maxy]: readonly number[], plane: MapPlane): [number, number, number, number] {
  const points: Point[] = [];
  for (let i = 0; i <= 4; i++)
    for (let j = 0; j <= 4; j++) {
      const x = minx! + (i / 4) * (maxx! - minx!);
      const y = miny! + (j / 4) * (maxy! - miny!);
      const p = Number.isFinite(x) && Number.isFinite(y) ? plane.toDegrees([x, y]) : null;
      if (p) points.push(p);
    }
  if (points.length === 0) return [-180, -90, 180, 90];
  const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
  return [Math.max(-180, Math.min(...xs)), Math.max(-90, Math.min(...ys)), Math.min(180, Math.max(...xs)), Math.min(90, Math.max(...ys))];
}
