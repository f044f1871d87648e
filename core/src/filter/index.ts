export * from './check-filter.js';
export * from './expression.js';
export * from './parse-filter.js';
export * from './print-filter.js';
export * from './test-record.js';
