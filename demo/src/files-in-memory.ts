import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from '@rootmap/engine';
import type { Features } from './shapes.js';
import { putGeoJson, putShapefile } from './write-data.js';

export type Files = Readonly<Record<string, Buffer | string>>;
/** When what is downloaded was made. */
export const WHEN = '2026-02-14T08:00:00Z';

/** The files of a shapefile in memory. */
export const shapefile = (name: string, f: Features, prj: string | null): Files =>
  files((at) => putShapefile(join(at, name), f, prj, WHEN));
export const geojson = (f: Features): Buffer => files((at) => putGeoJson(join(at, 'x'), f, WHEN))['x']! as Buffer;

function files(write: (folder: string) => void): Files {
  const folder = mkdtempSync(join(tmpdir(), 'rootmap-demo-'));
  try {
    write(folder);
    return Object.fromEntries(readdirSync(folder).map((name) => [name, readFileSync(join(folder, name))]));
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
