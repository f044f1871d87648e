import { resolve } from '@rootmap/engine';
import { placesSetting } from './demo-places.js';
import { makeDemo } from './make-demo.js';

const folder = process.argv[2];
if (!folder) {
  process.stderr.write('Usage: node demo/dist/main.js FOLDER\n');
  process.exit(2);
}
process.stdout.write(`${placesSetting(await makeDemo(resolve(folder)))}\n`);
