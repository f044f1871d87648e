export * from './ascii.js';
export * from './check-names.js';
export * from './column-names.js';
export * from './pattern.js';
export * from './portable-name.js';
export * from './propose.js';
export * from './rules.js';
export * from './split-name.js';
