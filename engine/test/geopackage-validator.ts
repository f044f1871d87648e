import { execFileSync } from 'node:child_process';

// Outside references: validate_gpkg of Debian's python3-gdal, ogrinfo of gdal-bin.
const VALIDATOR = '/usr/lib/python3/dist-packages/osgeo_utils/samples/validate_gpkg.py';

/** Null: valid; else what the validator says. */
export function faultOf(path: string): string | null {
  try {
    execFileSync('/usr/bin/python3', [VALIDATOR, path], { stdio: 'pipe' });
    return null;
  } catch (error) {
    const { stdout, stderr } = error as { stdout: Buffer; stderr: Buffer };
    return `${stdout.toString()}${stderr.toString()}`.trim();
  }
}

export const ogrinfo = (path: string, table: string): string =>
  execFileSync('ogrinfo', ['-so', path, table], { stdio: ['ignore', 'pipe', 'ignore'] }).toString();

export const gdal = (command: string, ...args: string[]): string =>
  execFileSync(command, args, { stdio: ['ignore', 'pipe', 'ignore'] }).toString();
