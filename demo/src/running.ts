/** What a demo that is made needs to run: bundled, so that it starts quickly. */
export { demoPlaces, placesSetting } from './demo-places.js';
export { startStandIns } from './standins/start-standins.js';
