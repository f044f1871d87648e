import { spawnSync } from 'node:child_process';
import { join } from '@rootmap/engine';
import type { LayerState } from '@rootmap/core';

/** The layers of a folder as the built command line tells them, in a process and a data folder of its own. */
export function rootmapLayers(folder: string, aside: string): readonly { readonly state: LayerState }[] {
  const env = { ...process.env, ROOTMAP_DATA: join(aside, 'command-line') };
  const { stdout } = spawnSync(process.execPath, ['cli/bin/rootmap.js', 'layers', folder, '--json'], { env, encoding: 'utf8' });
  return (JSON.parse(stdout) as { layers: { state: LayerState }[] }).layers;
}
