import type { ByteSource, NewHasher } from '../../bytes/byte-source.js';
import type { CrsTable } from '../../crs/crs-table.js';
import { unreadable, type Description, type Extent, type FileGroup } from '../../dataset/dataset.js';
import type { FullPart } from '../../dataset/fingerprint.js';
import { OccupancyGrid } from '../../dataset/grid.js';
import { explain } from '../../problem.js';
import { describeHead } from '../../raster/describe-head.js';
import { apply } from '../../raster/georeference.js';
import { hashRaster } from '../../raster/hash-raster.js';
import { fromSideFiles, type Open } from '../../raster/side-files.js';
import { gridValues, readGridHeader, type GridHeader } from './grid-values.js';

export function describeAsciiGrid(group: FileGroup, open: Open, table: CrsTable): Description {
  const header = readGridHeader(group.path, open(group.path));
  if (!header.ok) return unreadable('raster', explain(header.problem));
  const { crs } = fromSideFiles(group, open, table);
  return describeHead(group, { ...header.value, bands: 1, crs });
}

/** Grid of the cells that are not nodata, and the hash. Streams. */
export function fullAsciiGrid(group: FileGroup, extent: Extent | null, open: Open, newHasher: NewHasher): FullPart {
  const grid = new OccupancyGrid(extent);
  const source = open(group.path);
  const header = readGridHeader(group.path, source);
  if (header.ok) markCells(source, header.value, grid);
  return { vertices: null, grid: header.ok ? grid.toHex() : null, hash: hashRaster(group, open, newHasher), deletedRows: 0 };
}

function markCells(source: ByteSource, h: GridHeader, grid: OccupancyGrid): void {
  let index = 0;
  for (const value of gridValues(source, h)) {
    if (!Number.isNaN(value) && value !== h.nodata) {
      const [x, y] = apply(h.transform, (index % h.width) + 0.5, Math.floor(index / h.width) + 0.5);
      grid.add(x, y);
    }
    index++;
  }
}
