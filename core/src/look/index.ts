export * from './class-breaks.js';
export * from './label-text.js';
export * from './look.js';
export * from './look-of-rules.js';
export * from './rules-of-look.js';
