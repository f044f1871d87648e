export * from './edits.js';
export * from './exports.js';
export * from './geodatabases.js';
export * from './views.js';
export * from './maps.js';
export * from './requests.js';
export * from './rows.js';
export * from './sources.js';
