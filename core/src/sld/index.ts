export * from './pictures-of-style.js';
export * from './read-sld.js';
export { writeSld } from './write-sld.js';
