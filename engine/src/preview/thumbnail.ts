import { readFeatures, readWkb, type Extent } from '@rootmap/core';
import type { ThumbnailView } from '@rootmap/core/contract';
import { platformBelow } from '../survey/platform.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { placedBy } from '../project/placed-by.js';
import { placed, spread } from './preview.js';
import { rasterPicture, stretchOf } from './raster-picture.js';

/** The room of a picture, in whole steps that a path is drawn in; at most 1024 of them across. */
export interface Frame {
  readonly width: number;
  readonly height: number;
  readonly edge: number;
  /** Characters of a path; what comes after fills cells that are still empty. */
  readonly mostPath: number;
}
const SMALL: Frame = { width: 96, height: 60, edge: 3, mostPath: 2400 };

/** A small picture of a dataset in its own coordinates; null where it has no shape. */
export const thumbnailOf = (found: FoundDataset): Promise<ThumbnailView | null> => drawnIn(found, SMALL);

/** A picture of a dataset in its own coordinates, fitted into a frame; null where it has no shape. */
export async function drawnIn(found: FoundDataset, frame: Frame): Promise<ThumbnailView | null> {
  const { bbox, kind, state } = found.dataset;
  if (!bbox || state === 'unreadable') return null;
  return kind === 'raster' ? picture(found, bbox, frame) : kind === 'vector' ? outline(found, bbox, frame) : null;
}

async function picture(found: FoundDataset, bbox: Extent, frame: Frame): Promise<ThumbnailView | null> {
  const { group, table, raster, crs } = found.dataset;
  const platform = platformBelow(found.folder);
  try {
    const transform = raster ? (placedBy(found, platform) ?? spread(bbox, raster)) : null;
    const own = crs?.code ?? null;
    const inPlace = transform && (await placed({ folder: found.folder, group, table, transform, own, drawn: own }, platform));
    if (!inPlace) return null;
    const { width, height } = frameOf(bbox, frame);
    const png = await rasterPicture(inPlace, bbox, width, height, [await stretchOf(inPlace, bbox)]);
    inPlace.pixels.close();
    return { kind: 'raster', path: '', image: png.toString('base64') };
  } finally {
    platform.close();
  }
}

/** Where an extent stands in a frame: its size and its top left corner in steps, and steps to a unit of its coordinates. */
export function frameOf([minx, miny, maxx, maxy]: Extent, frame: Frame) {
  const scale = Math.min((frame.width - 2 * frame.edge) / (maxx - minx || 1e-9), (frame.height - 2 * frame.edge) / (maxy - miny || 1e-9));
  const [width, height] = [Math.max(1, Math.round((maxx - minx) * scale)), Math.max(1, Math.round((maxy - miny) * scale))];
  return { width, height, scale, left: (frame.width - width) / 2, top: (frame.height - height) / 2 };
}

function outline(found: FoundDataset, bbox: Extent, frame: Frame): ThumbnailView {
  const { scale, left, top } = frameOf(bbox, frame);
  const drawer = new PathDrawer(frame.mostPath);
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

  constructor(private readonly mostPath: number) {}

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
    if (this.hasSize && this.length < this.mostPath) {
      const text = this.shape.join('');
      this.parts.push(text);
      this.length += text.length;
    } else if (!Number.isNaN(this.last) && !this.cells.has(this.last)) this.cells.add(this.last);
  }
  view(): ThumbnailView {
    const dots = [...this.cells].map((cell) => `M${cell % 1024} ${Math.floor(cell / 1024)}h0`);
    const most = Math.max(0, Math.floor((2 * this.mostPath - this.length) / 9));
    const stride = Math.max(1, Math.ceil(dots.length / Math.max(1, most)));
    return { kind: this.kind, path: this.parts.join('') + dots.filter((_, i) => i % stride === 0).join(''), image: null };
  }
}
