export { roundScale, scaleShowing } from './fit-scale.js';
export { GRIDS, gridMarks, roundStep, type Grid } from './grid-marks.js';
export { isInScale } from './in-scale.js';
export { drawingOf, lookFor } from './layer-drawing.js';
export { locatorMarks } from './locator.js';
export { markPath } from './mark-path.js';
export { northAt } from './north.js';
export { degreesOfPage, FINEST_LAND, LAND_COLOURS, landMark, landOf, landOfRegion, landRings, type Land } from './land.js';
export { legendRows } from './legend-marks.js';
export { mapFrame, pageMarks } from './page-marks.js';
export {
  GROUND,
  NOTE_PLACES,
  PAGE_FORMATS,
  RESOLUTIONS,
  type Box,
  type LabelMark,
  type LegendEntry,
  type OwnPicture,
  type PageMark,
  type PageNote,
  type PageSpec,
  type PictureMark,
  type ShapesMark,
} from './page-model.js';
export { paperIn, paperOf, PAPERS } from './paper.js';
export type { Plane } from './plane.js';
export { endText, rangeOf, type RasterRange } from './raster-range.js';
export { grouped, lengthText, readScale, scaleText } from './scale-text.js';
export { svgPage } from './svg-page.js';
export {
  boxOfFrame,
  labelMarks,
  layerMarks,
  onPaper,
  shapeMarks,
  type LineLayer,
  type Paper,
  type SymbolPicture,
  type SymbolPictures,
} from './vector-marks.js';
