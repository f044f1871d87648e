import { noCrsTable, type CrsTable } from '../../crs/crs-table.js';
import type { ByteSource } from '../../bytes/byte-source.js';
import { unreadable, type Crs, type Description, type FileGroup, type Finding } from '../../dataset/dataset.js';
import { explain } from '../../problem.js';
import { describeHead } from '../../raster/describe-head.js';
import type { Transform } from '../../raster/georeference.js';
import { fromSideFiles, type Open } from '../../raster/side-files.js';
import { crsOfGeoKeys, isPixelPoint, readGeoKeys } from './geo-keys.js';
import { readTiffTags, type TiffTags } from './read-tiff-tags.js';
import { transformOfTags } from './transform-of-tags.js';

/** Size, bands, place and CRS of a GeoTIFF; the side files fill in what its tags leave out. */
export function describeGeoTiff(group: FileGroup, open: Open, table: CrsTable): Description {
  const read = readTiffTags(group.path, open(group.path));
  if (!read.ok) return unreadable('raster', explain(read.problem));
  const tags = read.value;
  const width = tags.numbers.get(256)?.[0];
  const height = tags.numbers.get(257)?.[0];
  if (!width || !height) {
    const found = `${width ?? 'none'} × ${height ?? 'none'}`;
    return unreadable(
      'raster',
      explain({ code: 'bad-field', file: group.path, field: 'the image size', offset: 0, expected: 'a width and a height', found }),
    );
  }
  const keys = readGeoKeys(tags);
  const side = fromSideFiles(group, open, table);
  const transform = transformOfTags(tags.numbers, isPixelPoint(keys)) ?? side.transform;
  const described = describeHead(group, {
    width,
    height,
    bands: tags.numbers.get(277)?.[0] ?? 1,
    transform,
    crs: crsOfGeoKeys(keys, table) ?? side.crs,
  });
  const points = transform ? 0 : controlPoints(tags);
  return points === 0
    ? described
    : { ...described, findings: described.findings.map((f) => (f.code === 'no-georeference' ? rectify(group, points) : f)) };
}

const TIE_NUMBERS = 6;
/** Tie points without a size of pixels are ground control points (OGC 19-008r4, annex B.6). */
const controlPoints = ({ numbers }: TiffTags): number => Math.floor((numbers.get(33922)?.length ?? 0) / TIE_NUMBERS);

const rectify = ({ path }: FileGroup, points: number): Finding => ({
  code: 'control-points',
  message: `${path} has ${points} ground control points and is not rectified, so its pixels have no place on Earth yet.`,
  fix: 'Rectify it by these points in a program that can, or ask its publisher for the rectified one.',
});

/** Where a TIFF by itself says that it lies; null: it is none. */
export function placeOfTiff(path: string, source: ByteSource, table: CrsTable): { transform: Transform | null; crs: Crs | null } | null {
  const tags = readTiffTags(path, source);
  if (!tags.ok) return null;
  const keys = readGeoKeys(tags.value);
  return { transform: transformOfTags(tags.value.numbers, isPixelPoint(keys)), crs: crsOfGeoKeys(keys, table) };
}

/** The transform alone, of a raster whose tags are known. */
export function transformOf(group: FileGroup, open: Open, tags: TiffTags): Transform | null {
  return transformOfTags(tags.numbers, isPixelPoint(readGeoKeys(tags))) ?? fromSideFiles(group, open, noCrsTable).transform;
}
