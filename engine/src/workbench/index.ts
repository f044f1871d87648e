export * from './jobs.js';
export * from './workbench.js';
export * from '../places/confine.js';
export * from '../places/places.js';
export * from '../disk/disk-problem.js';
export * from '../data-folder.js';
export * from '../crs/search-crs.js';
export { readdirSync } from '../disk/files.js';
