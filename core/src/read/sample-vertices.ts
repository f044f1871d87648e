import type { ByteSource } from '../bytes/byte-source.js';
import { ForwardReader } from '../bytes/forward-reader.js';
import type { FileGroup } from '../dataset/dataset.js';
import { scanGeoJson } from '../format/geojson/scan-geojson.js';
import { readVertices } from '../format/shapefile/read-vertices.js';

/** Keeps some of many vertices, each with the same chance, so that a sketch has the shape of the whole. Repeatable. */
export class VertexSample {
  readonly x: number[] = [];
  readonly y: number[] = [];
  private seen = 0;
  private seed = 1;

  constructor(private readonly most: number) {}

  readonly add = (x: number, y: number): void => {
    this.seen++;
    let at = this.x.length;
    if (at >= this.most) {
      this.seed = (Math.imul(this.seed, 1664525) + 1013904223) >>> 0;
      at = Math.floor((this.seed / 2 ** 32) * this.seen); // reservoir sampling: Vitter 1985, algorithm R
      if (at >= this.most) return;
    }
    this.x[at] = x;
    this.y[at] = y;
  };
}

/** Some vertices of a dataset in one file; false where its format has none that are read here. */
export function sampleVertices(group: FileGroup, open: (path: string) => ByteSource, sample: VertexSample): boolean {
  if (group.format === 'shapefile') readVertices(new ForwardReader(open(group.path)), sample.add);
  else if (group.format === 'geojson') scanGeoJson(group.path, open(group.path), sample.add);
  else return false;
  return true;
}
