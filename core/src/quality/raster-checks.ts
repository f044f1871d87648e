import { checked, manyOf, type CheckExample, type QualityCheck } from './quality-check.js';
import { histogramOf, type FieldProfile } from './profile.js';
import { scaleBorne, scaleWords } from './scale.js';

/** What is known of a raster before its pixels are read. */
export interface RasterSubject {
  readonly width: number;
  readonly height: number;
  /** Bands of numbers. */
  readonly bands: number;
  /** Metres of one unit of its CRS; null: degrees, or nobody knows. */
  readonly metres: number | null;
  readonly isDegrees: boolean;
  /** In units of its CRS. */
  readonly pixel: readonly [number, number];
  /** Latitude of its middle, where it is in degrees. */
  readonly latitude: number | null;
  /** Place of the middle of a pixel; null: it has none. */
  readonly placeOf: (col: number, row: number) => readonly [number, number] | null;
}

interface Band {
  without: number;
  least: number;
  most: number;
  /** Rows of one value while its neighbours differ. */
  readonly flatRows: number[];
  /** Value of each column, NaN where none was seen yet; and whether it has several. */
  readonly columns: Float64Array;
  readonly several: Uint8Array;
  /** Columns that may have one value still. */
  open: number;
  /** Numbers of pixels here and there. */
  readonly sample: number[];
}

function lookAtColumns(tally: Band, values: ArrayLike<number>, width: number): void {
  const { columns, several } = tally;
  for (let i = 0; i < width; i++) {
    if (several[i] === 1) continue;
    const v = values[i]!;
    if (Number.isNaN(v) || columns[i] === v) continue;
    if (Number.isNaN(columns[i]!)) columns[i] = v;
    else {
      several[i] = 1;
      tally.open--;
    }
  }
}

const METRES_PER_DEGREE = 111_320;
/** Pixels that are held for a histogram, about. */
const MOST_SAMPLE = 1 << 16;
/** A row or column shorter than this tells nothing. */
const SHORTEST = 16;

/** Every check of pixels, in one pass of rows from the north. */
export class RasterChecks {
  private readonly bands: Band[];

  /** Every how many columns and rows a pixel is taken for the histograms. */
  private readonly apart: number;

  constructor(private readonly subject: RasterSubject) {
    this.apart = Math.max(1, Math.ceil(Math.sqrt((subject.width * subject.height) / MOST_SAMPLE)));
    this.bands = Array.from({ length: subject.bands }, () => ({
      without: 0,
      least: Infinity,
      most: -Infinity,
      flatRows: [],
      columns: new Float64Array(subject.width).fill(NaN),
      several: new Uint8Array(subject.width),
      open: subject.width,
      sample: [],
    }));
  }

  /** @param values a whole row of a band, from 0; NaN where there is no value */
  add(band: number, row: number, values: ArrayLike<number>): void {
    const tally = this.bands[band]!;
    const { width } = this.subject;
    let least = Infinity; // one by one: taken out of a list they are more than twice as slow in this loop
    let most = -Infinity;
    let seen = 0;
    for (let i = 0; i < width; i++) {
      const v = values[i]!;
      if (v >= least && v <= most) {
        seen++; // nearly all of a thousand million
        continue;
      }
      if (Number.isNaN(v)) continue;
      seen++;
      if (v < least) least = v;
      if (v > most) most = v;
    }
    tally.without += width - seen;
    if (row % this.apart === 0) for (let i = 0; i < width; i += this.apart) if (Number.isFinite(values[i])) tally.sample.push(values[i]!);
    if (seen === 0) return;
    if (least < tally.least) tally.least = least;
    if (most > tally.most) tally.most = most;
    if (least === most && seen >= SHORTEST) tally.flatRows.push(row);
    if (tally.open > 0) lookAtColumns(tally, values, width);
  }

  /** What stands in each band. */
  profiles(): FieldProfile[] {
    const of = this.subject.width * this.subject.height;
    return this.bands.map((b, i) => ({
      name: `band ${i + 1}`,
      type: 'number',
      filled: of - b.without,
      of,
      histogram: histogramOf(Float64Array.from(b.sample).sort(), this.apart ** 2),
    }));
  }

  checks(): QualityCheck[] {
    const { width, height } = this.subject;
    const all = width * height * this.bands.length;
    const without = this.bands.reduce((sum, b) => sum + b.without, 0);
    const constant = this.bands.flatMap((b, i) => (b.least === b.most ? [i + 1] : []));
    const empty = this.bands.flatMap((b, i) => (b.least > b.most ? [i + 1] : []));
    const share = all === 0 ? 0 : (100 * without) / all;
    const words = share === 0 || share >= 10 ? share.toFixed(0) : share.toPrecision(2);
    return [
      ...(this.bands.length === 0
        ? []
        : [
            checked(
              'nodata',
              empty.length > 0 ? 'fail' : without > 0 ? 'note' : 'pass',
              [without, all],
              `${words} % of its pixels have no value.`,
            ),
            checked(
              'constant-bands',
              constant.length + empty.length > 0 ? 'note' : 'pass',
              [constant.length + empty.length, this.bands.length],
              constant.length + empty.length === 0
                ? 'Every band has several values.'
                : [
                    ...(constant.length > 0 ? [`One value throughout: band ${constant.join(', ')}.`] : []),
                    ...(empty.length > 0 ? [`No value at all: band ${empty.join(', ')}.`] : []),
                  ].join(' '),
            ),
            this.stripes(),
          ]),
      ...this.scale(),
    ];
  }

  private stripes(): QualityCheck {
    const { width, height, placeOf } = this.subject;
    const examples: CheckExample[] = [];
    let count = 0;
    this.bands.forEach((b, n) => {
      if (!(b.least < b.most)) return;
      const flatColumns =
        height < SHORTEST ? [] : [...b.several].flatMap((isSeveral, i) => (isSeveral === 0 && !Number.isNaN(b.columns[i]!) ? [i] : []));
      count += b.flatRows.length + flatColumns.length;
      for (const row of b.flatRows) examples.push({ record: null, at: placeOf(width >> 1, row), what: `row ${row + 1} of band ${n + 1}` });
      for (const col of flatColumns)
        examples.push({ record: null, at: placeOf(col, height >> 1), what: `column ${col + 1} of band ${n + 1}` });
    });
    const detail =
      count === 0
        ? 'No row or column of a band has one value throughout.'
        : `${manyOf(count, 'row or column', 'rows or columns')} ${count === 1 ? 'has' : 'have'} one value throughout, in bands that have others.`;
    return checked('stripes', count === 0 ? 'pass' : 'note', [count, this.bands.length * (width + height)], detail, examples);
  }

  /** Denominator of the scale that its pixels bear; null: their size is not known. */
  get scaleBorne(): number | null {
    const size = this.pixelMetres();
    return size === null ? null : scaleBorne(size);
  }

  /** Size of its pixels in metres; null: not known. */
  pixelMetres(): number | null {
    const { pixel, metres, isDegrees, latitude } = this.subject;
    const unit = isDegrees ? METRES_PER_DEGREE : metres;
    if (unit === null) return null;
    const narrow = isDegrees && latitude !== null ? Math.cos((latitude * Math.PI) / 180) : 1;
    const size = Math.max(pixel[0] * unit * narrow, pixel[1] * unit);
    return size > 0 ? size : null;
  }

  private scale(): QualityCheck[] {
    const size = this.pixelMetres();
    if (size === null) return [];
    const detail = `Its pixels are ${Number(size.toPrecision(3))} m, which bear about ${scaleWords(scaleBorne(size))} (Tobler 1987).`;
    return [checked('scale', 'pass', [0, 1], detail)];
  }
}
