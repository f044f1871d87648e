import { execFileSync } from 'node:child_process';
import { cpSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { demoPlaces, makeDemo, placesSetting } from '../demo/dist/index.js';

/** The demo as it is made, and with every layer mended by the command line. */
export const MASTERS = { made: join(tmpdir(), 'rootmap-e2e-made'), mended: join(tmpdir(), 'rootmap-e2e-mended') } as const;

export default async function makeMasters(): Promise<void> {
  for (const folder of Object.values(MASTERS)) rmSync(folder, { recursive: true, force: true });
  await makeDemo(MASTERS.made, 'small');
  cpSync(MASTERS.made, MASTERS.mended, { recursive: true, preserveTimestamps: true });
  const { mended } = MASTERS;
  const env = { ...process.env, ROOTMAP_DATA: join(mended, 'data of the mend'), ROOTMAP_PLACES: placesSetting(demoPlaces(mended)) };
  const study = join(mended, 'places', 'desk', 'gis', 'ellisande_seagrass');
  execFileSync(process.execPath, ['cli/bin/rootmap.js', 'mend', study, '--apply'], { env, stdio: 'ignore' });
  rmSync(join(mended, 'data of the mend'), { recursive: true });
}
