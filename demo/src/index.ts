export * from './make-demo.js';
