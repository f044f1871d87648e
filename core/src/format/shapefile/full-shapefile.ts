import { lengthPrefix, type Hasher, type NewHasher } from '../../bytes/byte-source.js';
import { ForwardReader } from '../../bytes/forward-reader.js';
import type { Extent, FileGroup } from '../../dataset/dataset.js';
import type { FullPart } from '../../dataset/fingerprint.js';
import { OccupancyGrid } from '../../dataset/grid.js';
import { companion, readDbf, type Open } from './describe-shapefile.js';
import { countDeleted } from './count-deleted.js';
import { readVertices } from './read-vertices.js';

/** Bytes 1 to 3 of a DBF are the date it was last touched: no part of the data. */
const DATE_FROM = 1;
const DATE_TO = 4;

/**
 * Vertices, grid and hash of a shapefile in one read of each file. The hash covers `.shp` and `.dbf`, each behind its
 * length as 8 bytes big-endian; the `.dbf` without its date (docs/fingerprint.md).
 */
export function fullShapefile(group: FileGroup, extent: Extent | null, open: Open, newHasher: NewHasher): FullPart {
  const hasher = newHasher();
  const grid = new OccupancyGrid(extent);
  const shp = open(group.path);
  hasher.update(lengthPrefix(shp.sizeBytes));
  const reader = ForwardReader.hashing(shp, hasher);
  const { vertices } = readVertices(reader, (x, y) => grid.add(x, y));
  reader.drain();
  const dbf = companion(group, 'dbf');
  const deletedRows = dbf ? hashDbf(group, dbf, open, hasher) : 0;
  return { vertices, grid: grid.toHex(), hash: `sha256:${hasher.digest()}`, deletedRows };
}

function hashDbf(group: FileGroup, path: string, open: Open, hasher: Hasher): number {
  const source = open(path);
  hasher.update(lengthPrefix(source.sizeBytes));
  const reader = new ForwardReader(source, withoutDate(hasher));
  const header = readDbf(path, group, open);
  const deleted = header.ok ? countDeleted(reader, header.value) : 0;
  reader.drain();
  return deleted;
}

function withoutDate(hasher: Hasher): (piece: Uint8Array) => void {
  let first = true;
  return (piece) => {
    if (first) {
      hasher.update(piece.subarray(0, DATE_FROM));
      hasher.update(piece.subarray(Math.min(DATE_TO, piece.length)));
    } else hasher.update(piece);
    first = false;
  };
}
