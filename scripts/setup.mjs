// Installs and builds, and nothing else.
import { install } from './install.mjs';

await install();
const { build } = await import('./build.mjs');
await build();
console.log(
  'Root Map is installed and built. "npm run demo" shows it, "npm start" is the real thing, "npx rootmap help" the command line.',
);
