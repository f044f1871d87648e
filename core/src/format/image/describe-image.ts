import type { CrsTable } from '../../crs/crs-table.js';
import { unreadable, type Description, type FileGroup } from '../../dataset/dataset.js';
import { explain } from '../../problem.js';
import { describeHead } from '../../raster/describe-head.js';
import { fromSideFiles, type Open } from '../../raster/side-files.js';
import { readImageSize } from './read-image-size.js';

/** PNG and JPEG: size from the image, place from the side files. */
export function describeImage(group: FileGroup, open: Open, table: CrsTable): Description {
  const size = readImageSize(group.path, open(group.path));
  if (!size.ok) return unreadable('raster', explain(size.problem));
  return describeHead(group, { ...size.value, ...fromSideFiles(group, open, table) });
}
