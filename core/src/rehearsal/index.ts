export * from './changed-world.js';
export * from './fix-for.js';
