import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import type { NetcdfHeader } from '@rootmap/core';
import { toNative } from '../disk/native-path.js';
import { withFileNow } from '../disk/open.js';

/** What the child process tells. Of a variable of one dimension, numbers with where they stand. */
export interface ToldNetcdf {
  readonly dimensions: readonly { readonly name: string; readonly length: number }[];
  readonly variables: readonly {
    readonly name: string;
    readonly dimensions: readonly number[];
    readonly texts: Readonly<Record<string, string>>;
    readonly ends: readonly (readonly [index: number, value: number])[];
  }[];
}

const PATIENCE_MS = 20_000;
const MOST_BYTES = 16 * 1024 * 1024;

/** Beside this file when it is compiled or bundled; tests of the sources take the compiled one. */
const SCRIPT = ['./netcdf4-child.js', '../../dist/survey/netcdf4-child.js']
  .map((at) => fileURLToPath(new URL(at, import.meta.url)))
  .find((path) => existsSync(path));

/** What a NetCDF of version 4, which is kept as HDF5, says of itself; null: it cannot be read. A process of its own reads it. */
export function readNetcdf4(path: string): NetcdfHeader | null {
  if (SCRIPT === undefined) return null;
  return withFileNow(path, (held) => {
    const file = held.replace(/^\/proc\/self\//, `/proc/${process.pid}/`);
    const { status, stdout } = spawnSync(process.execPath, [SCRIPT, toNative(file)], {
      timeout: PATIENCE_MS,
      maxBuffer: MOST_BYTES,
      stdio: ['ignore', 'pipe', 'ignore'],
      windowsHide: true,
    });
    return status === 0 ? headerOf(JSON.parse(stdout.toString('utf8')) as ToldNetcdf) : null;
  });
}

const headerOf = ({ dimensions, variables }: ToldNetcdf): NetcdfHeader => ({
  dimensions,
  variables: variables.map(({ name, dimensions: along, texts, ends }) => {
    const numbers = new Map(ends);
    return { name, dimensions: along, texts: new Map(Object.entries(texts)), numberAt: (_, index) => numbers.get(index) ?? null };
  }),
});
