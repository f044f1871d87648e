export * from '../data-folder.js';
export * from './known-editions.js';
export * from './known-services.js';
export * from './known-shelves.js';
export * from './open-store.js';
export * from './sql-journal.js';
export * from './tables.js';
