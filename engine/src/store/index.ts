export * from '../data-folder.js';
export * from './known-editions.js';
export * from './known-services.js';
export * from './open-store.js';
export { ShelfRepository } from '../repositories/shelf-repository.js';
export * from './sql-journal.js';
export * from './tables.js';
