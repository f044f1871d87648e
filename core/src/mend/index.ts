export * from './match-layers.js';
export * from './point-out.js';
export * from './shifts.js';
export * from './types.js';
