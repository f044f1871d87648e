import { existsSync } from 'node:fs';
import {
  explain,
  PLAIN_RASTER,
  ProblemError,
  type Extent,
  type FileGroup,
  type RasterLook,
  type Transform,
  type Problem,
} from '@rootmap/core';
import type {
  DrawnShape,
  IdentifiedLayer,
  IdentifyRequest,
  LayerDrawing,
  LayerPictureView,
  PageShapes,
  PageShapesRequest,
  PictureOfLayer,
  PreviewView,
  ShapesRequest,
} from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { mkdirSync, readFileSync, renameSync, writeFileSync } from '../disk/files.js';
import { crsKey, definitionOf, keyName } from '../crs/definitions.js';
import { gridsMark } from '../crs/grids.js';
import { crsNamed } from '../crs/search-crs.js';
import { transformer, type Transformer } from '../crs/transformer.js';
import { platformBelow, type NodePlatform } from '../survey/platform.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { CacheFolder, versionOf } from '../disk/cache-folder.js';
import { openPixels } from '../pixels/open-pixels.js';
import { placedBy } from '../project/placed-by.js';
import { drawnShapes, shapesAt } from './identify.js';
import { pageShapes } from './page-shapes.js';
import { bandsOf, pixelAt, rasterPicture, stretchOf, type RasterInPlace, type Stretch } from './raster-picture.js';
import { squareOf, tileBox } from './tile-square.js';
import type { ShapeStore } from './shape-store.js';
import { drawingName, isPlain, makeClasses, readClasses, type ShapeClasses } from './shape-classes.js';
import { ContainerStore } from './container-store.js';
import { buildVectorStore, VectorStore } from './vector-store.js';
import { vectorTile } from './vector-tile.js';

const TILE = 256;
/** Finest zoom whose tiles of a raster are kept. */
const FINEST_KEPT = 6;
/** Finest zoom that is made: beyond it a screen enlarges. */
const FINEST_ZOOM = 16;

/** What a raster's tiles are made from; kept beside them. */
interface RasterRecord {
  readonly folder: string;
  readonly group: FileGroup;
  readonly table: string | null;
  readonly transform: Transform;
  readonly own: string | null;
  readonly drawn: string | null;
  readonly extent: Extent;
  readonly stretch: Stretch | null;
  readonly bands: number;
  readonly hasColours: boolean;
}
const RASTER = 'raster.json';
const NO_NUMBERS: Pick<LayerPictureView, 'stretch' | 'bands' | 'hasColours'> = { stretch: null, bands: 0, hasColours: false };
/** One pixel is asked for to know whether there are colours. */
const FIRST = new Int32Array(1);

/** Pictures of datasets in any CRS, tile by tile. One worker holds what it has opened. */
export class Previews {
  private readonly cache: CacheFolder;
  private readonly stores = new Map<string, ShapeStore>();
  private readonly rasters = new Map<string, { record: RasterRecord; inPlace: RasterInPlace; platform: NodePlatform }>();

  constructor(dataFolder: string) {
    this.cache = new CacheFolder(join(dataFolder, 'cache', 'previews'));
  }

  /**
   * Makes ready what tiles are made from.
   * @param crs the CRS that it is drawn in; null: its own
   */
  async prepare(found: FoundDataset, crs: string | null, onProgress: (done: number) => void): Promise<PreviewView> {
    const { dataset } = found;
    const own = crsKey(dataset.crs);
    const drawn = crs ?? dataset.crs?.code ?? null;
    const isOwn = drawn === null || own === null || drawn === own;
    const to = isOwn ? null : transformer(own, drawn);
    if (!isOwn && !to)
      throw new ProblemError(
        cannotDraw(`the computation of ${own === null ? 'its CRS' : keyName(own)} or ${drawn ?? ''} is not known here`),
      );
    const version = versionOf(found, drawn, isOwn ? null : gridsMark(own, drawn) || null);
    const folder = this.cache.of(version);
    const { kind } = dataset;
    const drawnView = {
      version,
      crs: drawn,
      proj4: drawn ? (definitionOf(drawn)?.proj4 ?? null) : null,
      unit: drawn ? (crsNamed(drawn)?.unit ?? null) : null,
    };
    if (kind === 'raster') {
      const record = await this.rasterRecord(found, own, drawn, folder);
      this.cache.touch(version);
      return {
        ...drawnView,
        kind: 'raster',
        extent: record.extent,
        square: squareOf(record.extent),
        finestZoom: FINEST_ZOOM,
        count: null,
        lost: 0,
      };
    }
    if (!VectorStore.isAt(folder) && !(isOwn && this.openContainer(found, version, folder))) {
      buildVectorStore(found, to, folder, onProgress);
      this.cache.trim();
    }
    const { head } = this.store(version);
    this.cache.touch(version);
    return {
      ...drawnView,
      kind: 'vector',
      extent: head.extent,
      square: squareOf(head.extent),
      finestZoom: FINEST_ZOOM,
      count: head.count,
      lost: head.lost,
    };
  }

  /** The same for a layer of a map: its records are told apart by what draws them. */
  async prepareLayer(
    found: FoundDataset,
    crs: string | null,
    drawing: LayerDrawing,
    onProgress: (done: number) => void,
  ): Promise<LayerPictureView> {
    const view = await this.prepare(found, crs, onProgress);
    const all = drawing.rules.map((_, i) => i);
    if (isPlain(drawing))
      return {
        ...view,
        drawing: null,
        classes: [all],
        counts: all.map(() => view.count ?? 0),
        hidden: 0,
        ...(await this.numbersIn(view, null)),
      };
    const folder = this.folderOf(view.version);
    const name = drawingName(drawing);
    if (view.kind === 'raster') {
      writeWhole(join(folder, `${name}.look.json`), JSON.stringify(drawing.raster));
      return { ...view, drawing: name, classes: [], counts: [], hidden: 0, ...(await this.numbersIn(view, drawing.raster)) };
    }
    const { head } =
      this.classes(view.version, name) ??
      this.keepClasses(view.version, name, makeClasses(found, this.store(view.version), drawing, folder, onProgress));
    return { ...view, drawing: name, ...head, ...NO_NUMBERS };
  }

  /** What a raster has to be drawn by; its stretch is that of the band that is drawn. */
  private async numbersIn({ version, kind }: PreviewView, look: RasterLook | null): Promise<typeof NO_NUMBERS> {
    if (kind !== 'raster') return NO_NUMBERS;
    const folder = this.folderOf(version);
    const { bands, hasColours } = JSON.parse(readFileSync(join(folder, RASTER), 'utf8')) as RasterRecord;
    const [stretch] = await this.stretches(version, folder, look ?? PLAIN_RASTER);
    return { stretch: stretch ?? null, bands, hasColours };
  }

  /** Of each band that a look draws; those beyond the first are found out when they are drawn first, and kept. */
  private stretches(version: string, folder: string, look: RasterLook): Promise<(Stretch | null)[]> {
    return Promise.all(
      bandsOf(look).map(async (band) => {
        if (band === 0) return (JSON.parse(readFileSync(join(folder, RASTER), 'utf8')) as RasterRecord).stretch;
        const path = join(folder, `stretch_${band}.json`);
        if (existsSync(path)) return JSON.parse(readFileSync(path, 'utf8')) as Stretch | null;
        const { record, inPlace } = await this.raster(version, folder);
        const found = await stretchOf(inPlace, record.extent, band);
        writeWhole(path, JSON.stringify(found));
        return found;
      }),
    );
  }

  private readonly classed = new Map<string, ShapeClasses>();
  private classes(version: string, name: string): ShapeClasses | null {
    const known = this.classed.get(`${version} ${name}`);
    if (known) return known;
    const read = readClasses(this.folderOf(version), name);
    return read && this.keepClasses(version, name, read);
  }
  private classesFor(version: string, drawing: string | null): ShapeClasses | null {
    const classes = drawing === null ? null : this.classes(version, drawing);
    if (drawing !== null && !classes) throw new ProblemError({ code: 'not-found', what: 'drawing', id: drawing });
    return classes;
  }
  private keepClasses(version: string, name: string, classes: ShapeClasses): ShapeClasses {
    evict(this.classed, () => undefined);
    this.classed.set(`${version} ${name}`, classes);
    return classes;
  }

  private store(version: string): ShapeStore {
    const store = this.stores.get(version);
    if (store) return store;
    const folder = this.folderOf(version);
    const opened = VectorStore.isAt(folder) ? VectorStore.open(folder) : ContainerStore.open(folder);
    if (!opened) throw new ProblemError({ code: 'not-found', what: 'preview', id: version }); // the page asks for the new state
    return this.keep(version, opened);
  }

  private keep(version: string, store: ShapeStore): ShapeStore {
    evict(this.stores, (s) => s.close());
    this.stores.set(version, store);
    return store;
  }

  /** A table with a good index is drawn from where it is. @returns false: it has none */
  private openContainer(found: FoundDataset, version: string, folder: string): boolean {
    if (this.stores.has(version)) return true;
    const store = ContainerStore.make(found, folder);
    if (store) this.keep(version, store);
    return store !== null;
  }

  private folderOf(version: string): string {
    const folder = join(this.cache.folder, version);
    if (!existsSync(folder)) throw new ProblemError({ code: 'not-found', what: 'preview', id: version });
    return folder;
  }

  private async rasterRecord(found: FoundDataset, own: string | null, drawn: string | null, folder: string): Promise<RasterRecord> {
    const path = join(folder, RASTER);
    if (existsSync(path)) return JSON.parse(readFileSync(path, 'utf8')) as RasterRecord;
    const { group, table, bbox, raster } = found.dataset;
    const platform = platformBelow(found.folder);
    try {
      const transform = bbox && raster ? (placedBy(found, platform) ?? spread(bbox, raster)) : null;
      if (!transform || !bbox || !raster) throw new ProblemError(cannotDraw('it does not say where on Earth it lies'));
      const half = { folder: found.folder, group, table, transform, own, drawn };
      const extent = drawnExtent(bbox, own, drawn);
      const inPlace = await placed(half, platform);
      const record: RasterRecord = {
        ...half,
        extent,
        stretch: inPlace ? await stretchOf(inPlace, extent) : null,
        bands: inPlace?.pixels.bands ?? 0,
        hasColours: (await inPlace?.pixels.colours(FIRST, FIRST, 1)) != null,
      };
      inPlace?.pixels.close();
      mkdirSync(folder, { recursive: true });
      writeWhole(path, JSON.stringify(record));
      return record;
    } finally {
      platform.close();
    }
  }

  /**
   * A tile: Mapbox Vector Tile or PNG.
   * @param drawing name of the drawing that `prepareLayer` gave; null: a plain one
   */
  async tile(version: string, z: number, x: number, y: number, drawing: string | null = null): Promise<Uint8Array> {
    const folder = this.folderOf(version);
    if (isOfShapes(folder)) {
      const store = this.store(version);
      return vectorTile(store, squareOf(store.head.extent), z, x, y, this.classesFor(version, drawing));
    }
    const kept = join(folder, `${drawing ?? 'plain'}_${z}_${x}_${y}.png`);
    if (existsSync(kept)) return readFileSync(kept);
    const { record } = await this.raster(version, folder);
    const picture = await this.pictureIn(version, drawing, tileBox(squareOf(record.extent), z, x, y), TILE, TILE);
    if (z <= FINEST_KEPT) writeWhole(kept, picture); // the coarse ones read most of the raster: they are kept
    return picture;
  }

  /** A raster as it is drawn, in a box of the CRS that it is drawn in: a PNG, transparent where it has nothing. */
  async pictureIn(version: string, drawing: string | null, box: Extent, width: number, height: number): Promise<Buffer> {
    const folder = this.folderOf(version);
    const styled = drawing === null ? null : (JSON.parse(readFileSync(join(folder, `${drawing}.look.json`), 'utf8')) as RasterLook | null);
    const look = styled ?? PLAIN_RASTER;
    const { inPlace } = await this.raster(version, folder);
    return rasterPicture(inPlace, box, width, height, await this.stretches(version, folder, look), look);
  }

  /** What stands at a point of layers that were made ready. One that cannot be asked says why; the others are answered. */
  async identify({ at, reach, layers }: IdentifyRequest): Promise<readonly IdentifiedLayer[]> {
    const all: IdentifiedLayer[] = [];
    for (const layer of layers)
      try {
        all.push({ ...NOTHING_THERE, id: layer.id, ...(await this.identifyLayer(layer, at, reach)) });
      } catch (error) {
        if (!(error instanceof ProblemError)) throw error;
        all.push({ ...NOTHING_THERE, id: layer.id, problem: explain(error.problem) });
      }
    return all;
  }

  private async identifyLayer(
    { version, drawing }: PictureOfLayer,
    at: readonly [number, number],
    reach: number,
  ): Promise<Partial<IdentifiedLayer>> {
    const folder = this.folderOf(version);
    if (isOfShapes(folder)) return shapesAt(this.store(version), this.classesFor(version, drawing), at, reach);
    const { inPlace } = await this.raster(version, folder);
    return pixelAt(inPlace, at);
  }

  /** What a layer draws in a frame on paper; null: it is a raster, or has too much there. */
  pageShapes(request: PageShapesRequest): PageShapes | null {
    const { version, drawing } = request;
    if (!isOfShapes(this.folderOf(version))) return null;
    return pageShapes(this.store(version), this.classesFor(version, drawing), request);
  }

  /** Shapes of records as they are drawn. */
  shapes({ version, records }: ShapesRequest): readonly DrawnShape[] {
    return isOfShapes(this.folderOf(version)) ? drawnShapes(this.store(version), records) : [];
  }

  private async raster(version: string, folder: string) {
    let opened = this.rasters.get(version);
    if (opened) return opened;
    const record = JSON.parse(readFileSync(join(folder, RASTER), 'utf8')) as RasterRecord;
    const platform = platformBelow(record.folder);
    const inPlace = await placed(record, platform);
    if (!inPlace) {
      platform.close();
      throw new ProblemError(cannotDraw('its pixels are packed in a way that is not read here'));
    }
    evict(this.rasters, (r) => {
      r.inPlace.pixels.close();
      r.platform.close();
    });
    opened = { record, inPlace, platform };
    this.rasters.set(version, opened);
    return opened;
  }
}

const NOTHING_THERE: Omit<IdentifiedLayer, 'id'> = { shapes: [], more: 0, bands: null, colour: null, problem: null };
const isOfShapes = (folder: string): boolean => VectorStore.isAt(folder) || ContainerStore.isAt(folder);

function writeWhole(path: string, content: string | Uint8Array): void {
  writeFileSync(`${path}.part`, content);
  renameSync(`${path}.part`, path);
}

const sameCrs: Transformer = (x, y) => [x, y];
/** As many layers as a map has in sight. */
const MOST_OPEN = 24;
function evict<T>(opened: Map<string, T>, close: (value: T) => void): void {
  if (opened.size < MOST_OPEN) return;
  const [key, value] = opened.entries().next().value!;
  opened.delete(key);
  close(value);
}

/** A raster in the CRS that is drawn; null: its pixels are not read here. */
export async function placed(
  { folder, group, table, transform, own, drawn }: Omit<RasterRecord, 'extent' | 'stretch' | 'bands' | 'hasColours'>,
  platform: NodePlatform,
): Promise<RasterInPlace | null> {
  const back = own === null || drawn === null || own === drawn ? sameCrs : transformer(drawn, own);
  const pixels = back ? await openPixels(folder, group, table, platform) : null;
  return pixels && back ? { pixels, transform, back } : null;
}

/** North up, over the whole extent. */
export const spread = ([minx, miny, maxx, maxy]: Extent, { width, height }: { width: number; height: number }): Transform => [
  minx,
  (maxx - minx) / width,
  0,
  maxy,
  0,
  -(maxy - miny) / height,
];

/** The extent in the CRS that is drawn: from points along its edges, since they bend. */
function drawnExtent(bbox: Extent, own: string | null, drawn: string | null): Extent {
  if (own === null || drawn === null || own === drawn) return bbox;
  const to = transformer(own, drawn);
  const [minx, miny, maxx, maxy] = bbox;
  const images = Array.from({ length: 21 }, (_, i) => i / 20).flatMap((t) => {
    const [x, y] = [minx + t * (maxx - minx), miny + t * (maxy - miny)];
    return [to?.(x, miny), to?.(x, maxy), to?.(minx, y), to?.(maxx, y)].flatMap((p) => (p ? [p] : []));
  });
  if (images.length === 0) throw new ProblemError(cannotDraw('it has no place in that CRS'));
  const [xs, ys] = [images.map((p) => p[0]), images.map((p) => p[1])];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

const cannotDraw = (why: string): Problem => ({ code: 'wrong-use', message: `It cannot be drawn: ${why}.` });
