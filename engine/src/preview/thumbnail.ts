import { readFeatures, readWkb, type Extent } from '@rootmap/core';
import type { ThumbnailView } from '@rootmap/core/contract';
import { platformBelow } from '../survey/platform.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { placedBy } from '../project/placed-by.js';
import { placed, spread } from './preview.js';
import { rasterPicture, stretchOf } from './raster-picture.js';

const WIDTH = 96;
const HEIGHT = 60;
const EDGE = 3;
/** Characters of a path; what comes after fills cells that are still empty. */
const MOST_PATH = 2400;

/** A small picture of a dataset in its own coordinates; null where it has no shape. */
export async function thumbnailOf(found: FoundDataset): Promise<ThumbnailView | null> {
  const { bbox, kind, state } = found.dataset;
  if (!bbox || state === 'unreadable') return null;
  return kind === 'raster' ? picture(found, bbox) : kind === 'vector' ? outline(found, bbox) : null;
}

async function picture(found: FoundDataset, bbox: Extent): Promise<ThumbnailView | null> {
  const { group, table, raster, crs } = found.dataset;
  const platform = platformBelow(found.folder);
  try {
    const transform = raster ? (placedBy(found, platform) ?? spread(bbox, raster)) : null;
    const own = crs?.code ?? null;
    const inPlace = transform && (await placed({ folder: found.folder, group, table, transform, own, drawn: own }, platform));
    if (!inPlace) return null;
    const { width, height } = fitted(bbox);
    const png = await rasterPicture(inPlace, bbox, width, height, [await stretchOf(inPlace, bbox)]);
    inPlace.pixels.close();
    return { kind: 'raster', path: '', image: png.toString('base64') };
  } finally {
    platform.close();
  }
}

function fitted([minx, miny, maxx, maxy]: Extent): { width: number; height: number; scale: number } {
  const scale = Math.min((WIDTH - 2 * EDGE) / (maxx - minx || 1e-9), (HEIGHT - 2 * EDGE) / (maxy - miny || 1e-9));
  return { width: Math.max(1, Math.round((maxx - minx) * scale)), height: Math.max(1, Math.round((maxy - miny) * scale)), scale };
}

function outline(found: FoundDataset, bbox: Extent): ThumbnailView {
  const { width, height, scale } = fitted(bbox);
  const [left, top] = [(WIDTH - width) / 2, (HEIGHT - height) / 2];
  const drawer = new PathDrawer();
  const platform = platformBelow(found.folder);
  try {
    for (const { geometry } of readFeatures(found.dataset, platform, { geometry: true, values: false }).features) {
      if (!geometry) continue;
      drawer.begin();
      readWkb(geometry, {
        geometry: (code) => drawer.geometry(code),
        run: () => drawer.run(),
        vertex: (x, y) => drawer.vertex(left + (x - bbox[0]) * scale, top + (bbox[3] - y) * scale),
      });
      drawer.end();
    }
  } finally {
    platform.close();
  }
  return drawer.view();
}

/** Draws shapes as one SVG path of whole numbers. */
class PathDrawer {
  private readonly parts: string[] = [];
  private length = 0;
  private readonly cells = new Set<number>();
  private kind: 'point' | 'line' | 'area' = 'point';
  private shape: string[] = [];
  private last = NaN;
  private inRun = 0;
  private hasSize = false;

  begin(): void {
    this.shape = [];
    this.hasSize = false;
    this.last = NaN;
  }
  geometry(code: number): void {
    if (code === 3) this.kind = 'area';
    else if (code === 2 && this.kind === 'point') this.kind = 'line';
  }
  run(): void {
    this.closeRun();
    this.inRun = 0;
    this.last = NaN;
  }
  vertex(x: number, y: number): void {
    const [i, j] = [Math.round(x), Math.round(y)];
    const cell = j * 1024 + i;
    if (cell === this.last) return;
    if (this.inRun > 0) this.hasSize = true;
    this.last = cell;
    this.shape.push(this.inRun++ === 0 ? `M${i} ${j}` : `L${i} ${j}`);
  }
  private closeRun(): void {
    if (this.kind === 'area' && this.inRun > 1) this.shape.push('z');
  }
  /** A shape without size, or one that comes when the path is long, is one dot for each cell. */
  end(): void {
    this.closeRun();
    this.inRun = 0;
    if (this.hasSize && this.length < MOST_PATH) {
      const text = this.shape.join('');
      this.parts.push(text);
      this.length += text.length;
    } else if (!Number.isNaN(this.last) && !this.cells.has(this.last)) this.cells.add(this.last);
  }
  view(): ThumbnailView {
    const dots = [...this.cells].map((cell) => `M${cell % 1024} ${Math.floor(cell / 1024)}h0`);
    const most = Math.max(0, Math.floor((2 * MOST_PATH - this.length) / 9));
    const stride = Math.max(1, Math.ceil(dots.length / Math.max(1, most)));
    return { kind: this.kind, path: this.parts.join('') + dots.filter((_, i) => i % stride === 0).join(''), image: null };
  }
}
