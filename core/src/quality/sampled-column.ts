/** Numbers of one column, NaN where there is none: all of them, or every second, fourth … record once there are too many to hold. */
export class SampledColumn {
  private values = new Float64Array(1024);
  private size = 0;
  /** Each that is held stands for as many records. */
  stride = 1;
  private record = 0;

  constructor(private readonly most: number) {}

  add(value: number): void {
    if (this.record++ % this.stride !== 0) return;
    if (this.size === this.most) {
      for (let i = 0; i < this.size >> 1; i++) this.values[i] = this.values[i * 2]!;
      this.size >>= 1;
      this.stride *= 2;
      if ((this.record - 1) % this.stride !== 0) return;
    }
    if (this.size === this.values.length) {
      const wider = new Float64Array(Math.min(this.most, this.size * 4));
      wider.set(this.values);
      this.values = wider;
    }
    this.values[this.size++] = value;
  }

  /** As they came. */
  held(): Float64Array {
    return this.values.subarray(0, this.size);
  }

  /** Position from 1 of the record that a held value is of. */
  recordOf(index: number): number {
    return index * this.stride + 1;
  }

  /** Those that are numbers, the smallest first. */
  sorted(): Float64Array {
    return this.held()
      .filter((v) => Number.isFinite(v))
      .sort();
  }
}
