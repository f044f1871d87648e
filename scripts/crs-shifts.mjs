// What PROJ says of the shifts of geographic CRSs (crs-shifts.py), and how far one of ours is from it. Used by the scripts that make tables.
import { execFileSync } from 'node:child_process';
import proj4 from 'proj4';

const script = new URL('crs-shifts.py', import.meta.url).pathname;

/** @param areas [code, west, south, east, north] */
export function shiftsByProj(areas) {
  const asked = { input: JSON.stringify(areas), maxBuffer: 1 << 28, stdio: ['pipe', 'pipe', 'ignore'] };
  const rows = JSON.parse(execFileSync('/usr/bin/python3', [script], asked).toString());
  return new Map(rows.map(([code, shift, points]) => [code, { shift, points }]));
}

const METRES_A_DEGREE = 111_320;
/** Metres between where a proj4 string puts points and where PROJ does, at most; null: there are no points. */
export function metresOff(string, points) {
  let worst = points.length > 0 ? 0 : null;
  for (const [x, y, east, north] of points) {
    const [u, v] = proj4(string, 'WGS84', [x, y]);
    const turn = ((((u - east + 180) % 360) + 360) % 360) - 180;
    worst = Math.max(worst, Math.hypot(turn * Math.cos((y * Math.PI) / 180), v - north) * METRES_A_DEGREE);
  }
  return worst;
}
