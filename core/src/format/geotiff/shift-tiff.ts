import { memorySource } from '../../bytes/byte-source.js';
import { ShiftGrid, type Subgrid } from '../../crs/shift-grid.js';
import { isPixelPoint, readGeoKeys } from './geo-keys.js';
import { furtherTiffTags, readTiffTags, type TiffTags } from './read-tiff-tags.js';
import { TiffImage } from './tiff-image.js';
import { transformOfTags } from './transform-of-tags.js';
import type { Inflate } from './decode-block.js';

/*
 * Grid of shifts between two datums as a TIFF ("Geodetic TIFF grids", PROJ documentation: one image for each grid, its bands named
 * `latitude_offset` and `longitude_offset` in the metadata of tag 42112, in seconds of arc or degrees, positive to the east where
 * nothing else is said; what an image does not say is as in the first).
 */
const METADATA = 42112;
const MOST_NODES = 40_000_000;
const UNITS: Readonly<Record<string, number>> = { 'arc-second': 1 / 3600, degree: 1 };

/** A text: why it cannot be read. */
export function parseShiftTiff(bytes: Uint8Array, inflate: Inflate): ShiftGrid | string {
  const source = memorySource(bytes);
  const first = readTiffTags('grid', source);
  if (!first.ok) return 'it is no TIFF';
  const said = first.value.texts.get(METADATA) ?? '';
  if (itemsOf(said).find((i) => i.name === 'TYPE')?.value !== 'HORIZONTAL_OFFSET') return 'it does not say that it is a grid of shifts';
  const subgrids: Subgrid[] = [];
  for (const tags of [first.value, ...furtherTiffTags('grid', source, first.value)]) {
    const image = TiffImage.of(tags, source, inflate);
    const subgrid = image && subgridOf(image, tags, itemsOf(tags.texts.get(METADATA) ?? ''), itemsOf(said));
    if (!subgrid) return 'a grid in it cannot be read';
    subgrids.push(subgrid);
  }
  return new ShiftGrid(subgrids);
}

interface Item {
  readonly name: string;
  readonly sample: number | null;
  readonly value: string;
}

const itemsOf = (metadata: string): Item[] =>
  [...metadata.matchAll(/<Item\s([^>]*)>([^<]*)<\/Item>/g)].map(([, attributes, value]) => ({
    name: /\bname="([^"]*)"/.exec(attributes!)?.[1] ?? '',
    sample: ((n) => (n === undefined ? null : Number(n)))(/\bsample="(\d+)"/.exec(attributes!)?.[1]),
    value: value!.trim(),
  }));

function subgridOf(image: TiffImage, tags: TiffTags, own: readonly Item[], first: readonly Item[]): Subgrid | null {
  const transform = transformOfTags(tags.numbers, isPixelPoint(readGeoKeys(tags)));
  const { width: columns, height: rows } = image;
  if (!transform || transform[2] !== 0 || transform[4] !== 0 || columns < 2 || rows < 2 || columns * rows > MOST_NODES) return null;
  const [left, lonStep, , top, , down] = transform;
  if (!(lonStep > 0) || !(down < 0)) return null;
  const said = (name: string, sample: number): string | undefined =>
    [...own, ...first].find((i) => i.name === name && i.sample === sample)?.value;
  const bandOf = (named: string): ((node: number) => number) | null => {
    const sample = Array.from({ length: image.samples }, (_, i) => i).find((i) => said('DESCRIPTION', i) === named);
    if (sample === undefined) return null;
    const unit = UNITS[said('UNITTYPE', sample) ?? 'arc-second'];
    const sign = said('positive_value', sample) === 'west' ? -1 : 1;
    const values = unit === undefined ? null : valuesOf(image, sample);
    return values && ((node) => values[node]! * sign * unit!);
  };
  const [north, east] = [bandOf('latitude_offset'), bandOf('longitude_offset')];
  if (!north || !east) return null;
  return {
    west: left + lonStep / 2,
    south: top + (rows - 0.5) * down,
    lonStep,
    latStep: -down,
    columns,
    rows,
    value: (column, row, part) => (part === 'north' ? north : east)((rows - 1 - row) * columns + column),
  };
}

/** A band from the north-west; not a number where it says that there is none. Null: a block is damaged. */
function valuesOf(image: TiffImage, sample: number): Float32Array | null {
  const values = new Float32Array(image.width * image.height);
  for (let i = 0; i < image.blocks; i++) {
    const block = image.block(i, sample);
    if (!block) return null;
    for (let row = 0; row < block.rows; row++)
      for (let col = 0; col < block.cols; col++) {
        const value = block.value(col, row, sample);
        values[(block.firstRow + row) * image.width + block.firstCol + col] = value === image.nodata ? NaN : value;
      }
  }
  return values;
}
