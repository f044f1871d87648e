import { emptyDescription, type Crs, type Description, type FileGroup, type Finding } from '../dataset/dataset.js';
import { extentOf, pixelSize, type Transform } from './georeference.js';

/** What a raster's header and side files say together. */
export interface RasterHead {
  readonly width: number;
  readonly height: number;
  readonly bands: number;
  readonly transform: Transform | null;
  readonly crs: Crs | null;
}

export function describeHead(group: FileGroup, head: RasterHead): Description {
  const findings: Finding[] = [];
  if (!head.transform)
    findings.push({
      code: 'no-georeference',
      message: `${group.path} does not say where on Earth it lies.`,
      fix: 'Look for its world file where it came from.',
    });
  if (!head.crs)
    findings.push({
      code: 'no-crs',
      message: `${group.path} does not say its CRS.`,
      fix: 'Ask its publisher, or state the CRS.',
    });
  return {
    ...emptyDescription('raster'),
    crs: head.crs,
    bbox: head.transform ? extentOf(head.transform, head.width, head.height) : null,
    raster: {
      width: head.width,
      height: head.height,
      pixel: head.transform ? pixelSize(head.transform) : [1, 1],
      bands: head.bands,
    },
    findings,
  };
}
