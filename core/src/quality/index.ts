export * from './compare-records.js';
export * from './metadata-checks.js';
export { scaleWords } from './scale.js';
export { accuracyWords, positionalAccuracy, readCheckPoints } from './positional-accuracy.js';
export * from './quality-check.js';
export * from './quality-sheet.js';
export * from './raster-checks.js';
export * from './sheet-report.js';
export * from './vector-checks.js';
