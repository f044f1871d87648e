import { fromSideFiles, noCrsTable, readTiffTags, transformOf, type Transform } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { placeOfTiles } from '../pixels/table-tile-pixels.js';
import type { FoundDataset } from './find-dataset.js';
import type { NodePlatform } from '../survey/platform.js';

/** What the file or its side files say; a tiles table by the place of its matrix. */
export function placedBy({ folder, dataset }: FoundDataset, platform: NodePlatform): Transform | null {
  const { raster, group, table } = dataset;
  if (group.format === 'geopackage') return table && raster ? placeOfTiles(join(folder, group.path), table, raster) : null;
  const open = platform.open.bind(platform);
  if (group.format === 'geotiff') {
    const tags = readTiffTags(group.path, open(group.path));
    return tags.ok ? transformOf(group, open, tags.value) : null;
  }
  return group.format === 'image' ? fromSideFiles(group, open, noCrsTable).transform : null;
}
