export * from './views.js';
export * from './requests.js';
