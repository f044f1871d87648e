import { readWkb, type WkbVisitor } from '../geometry/read-wkb.js';
import { SampledColumn } from './sampled-column.js';

const MOST_HELD = 1 << 20;

/** What comes by in the shapes, measured in the units of the CRS; degrees are taken as lengths on a sphere where they stand. */
export class ShapeTally {
  shapes = 0;
  vertices = 0;
  /** Median distances between corners, a number a shape. */
  readonly spacing = new SampledColumn(MOST_HELD);
  /** Of areas: their size, and how round they are (4πA/P², 1 for a circle). NaN for other shapes. */
  readonly areas = new SampledColumn(MOST_HELD);
  readonly thinness = new SampledColumn(MOST_HELD);
  private readonly measure: Measuring;

  /** @param metres of one unit of the CRS; null: it is in degrees */
  constructor(metres: number | null) {
    this.measure = new Measuring(metres);
  }

  /** A record without a shape. */
  addNone(): void {
    for (const column of [this.spacing, this.areas, this.thinness]) column.add(NaN);
  }

  add(wkb: Uint8Array): Measured {
    const { measure } = this;
    measure.begin();
    readWkb(wkb, measure);
    this.shapes++;
    this.vertices += measure.vertices;
    this.spacing.add(measure.segments > 0 ? measure.length / measure.segments : NaN);
    const area = Math.abs(measure.area);
    this.areas.add(measure.isArea ? area : NaN);
    this.thinness.add(measure.isArea && measure.length > 0 ? (4 * Math.PI * area) / measure.length ** 2 : NaN);
    return { at: measure.at, isOdd: measure.isOdd, isEmpty: measure.vertices === 0 && !measure.isOdd, box: measure.box };
  }
}

/** One shape. */
interface Measured {
  /** Its first position; null: it has none. */
  readonly at: readonly [number, number] | null;
  /** A coordinate of it is no number. */
  readonly isOdd: boolean;
  readonly isEmpty: boolean;
  /** Good until the next shape. */
  readonly box: readonly [number, number, number, number];
}

const METRES_PER_DEGREE = 111_320;

class Measuring implements WkbVisitor {
  vertices = 0;
  segments = 0;
  length = 0;
  area = 0;
  isArea = false;
  private isInfinite = false;
  at: readonly [number, number] | null = null;
  box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  private isFirst = true;
  private expected = 0;
  private lastX = 0;
  private lastY = 0;
  private startX = 0;
  private startY = 0;
  private ring = 0;

  constructor(private readonly metres: number | null) {}

  begin(): void {
    this.vertices = this.segments = this.length = this.area = this.ring = this.expected = 0;
    this.isArea = this.isInfinite = false;
    this.at = null;
    this.box = [Infinity, Infinity, -Infinity, -Infinity];
  }

  /** The reader passes over what is no number; where all of it is, the shape is empty (an empty point has no other way). */
  get isOdd(): boolean {
    return this.isInfinite || (this.vertices > 0 && this.vertices < this.expected);
  }

  geometry(code: number): void {
    if (code === 3 || code === 6) this.isArea = true;
  }

  run(count: number): void {
    this.endRing();
    this.isFirst = true;
    this.expected += count;
  }

  private endRing(): void {
    // Rings that run the other way are holes, whatever their place: their areas are taken away by their sign.
    this.area += this.ring / 2;
    this.ring = 0;
  }

  vertex(x: number, y: number): void {
    if (!Number.isFinite(x) || !Number.isFinite(y)) {
      this.isInfinite = true;
      return;
    }
    this.vertices++;
    this.at ??= [x, y];
    const { box } = this;
    if (x < box[0]) box[0] = x;
    if (y < box[1]) box[1] = y;
    if (x > box[2]) box[2] = x;
    if (y > box[3]) box[3] = y;
    const ky = this.metres ?? METRES_PER_DEGREE;
    const kx = this.metres ?? METRES_PER_DEGREE * Math.cos((y * Math.PI) / 180);
    if (this.isFirst) {
      this.isFirst = false;
      [this.startX, this.startY] = [x, y];
    } else {
      this.length += Math.hypot((x - this.lastX) * kx, (y - this.lastY) * ky);
      this.segments++;
      // Relative to the first corner, so that no digits are lost far from the origin.
      this.ring += ((this.lastX - this.startX) * (y - this.startY) - (x - this.startX) * (this.lastY - this.startY)) * kx * ky;
    }
    [this.lastX, this.lastY] = [x, y];
  }

  end(): void {
    this.endRing();
  }
}
