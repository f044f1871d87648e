export * from './demo-places.js';
export * from './make-demo.js';
export * from './standins/start-standins.js';
export * from './standins/switches.js';
