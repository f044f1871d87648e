export { looseName } from './names.js';
export * from './match-layers.js';
export * from './point-out.js';
export * from './shifts.js';
export * from './types.js';
export * from './trouble.js';
export * from './field-pairs.js';
