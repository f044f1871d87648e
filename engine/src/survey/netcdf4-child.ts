// What is in a NetCDF of version 4, told as JSON on its standard output: node netcdf4-child.js FILE. It runs by itself, since what reads
// HDF5 is a library of another language: a file that is made to break it breaks nothing else.
import { Dataset, File, Group, ready } from 'h5wasm/node';
import type { ToldNetcdf } from './netcdf4-header.js';

const MOST_VARIABLES = 5000;
const LONGEST_TEXT = 20_000;
/** Dimensions without coordinates are kept as variables whose name begins so (the NetCDF-4 format specification, Unidata). */
const NO_COORDINATES = 'This is a netCDF dimension but not a netCDF variable';

function datasetsIn(group: Group, found: Dataset[] = []): Dataset[] {
  for (const name of group.keys()) {
    if (found.length >= MOST_VARIABLES) break;
    const inside = group.get(name);
    if (inside instanceof Dataset) found.push(inside);
    else if (inside instanceof Group) datasetsIn(inside, found);
  }
  return found;
}

function textsOf(dataset: Dataset): Record<string, string> {
  const texts: Record<string, string> = {};
  for (const [name, attribute] of Object.entries(dataset.attrs)) {
    if (name === 'DIMENSION_LIST' || name === 'REFERENCE_LIST') continue;
    const { value } = attribute;
    if (typeof value === 'string' && value.length < LONGEST_TEXT) texts[name] = value;
  }
  return texts;
}

const isScale = (dataset: Dataset): boolean => dataset.attrs['CLASS']?.value === 'DIMENSION_SCALE';
function isMadeUp(dataset: Dataset): boolean {
  const name = dataset.attrs['NAME']?.value;
  return typeof name === 'string' && name.startsWith(NO_COORDINATES);
}
const plain = (path: string): string => path.replace(/^\//, '');

/** The first, the second and the last of the numbers along a dimension. */
function endsOf(dataset: Dataset): [number, number][] {
  const length = dataset.shape?.[0] ?? 0;
  return [...new Set([0, 1, length - 1])]
    .filter((i) => i >= 0 && i < length)
    .flatMap((i): [number, number][] => {
      const value = (dataset.slice([[i, i + 1]]) as ArrayLike<number | bigint>)[0];
      return typeof value === 'number' || typeof value === 'bigint' ? [[i, Number(value)]] : [];
    });
}

await ready;
const file = new File(process.argv[2]!, 'r');
const all = datasetsIn(file);
const scales = all.filter((d) => isScale(d) && d.shape?.length === 1);
const dimensions = scales.map((d) => ({ name: plain(d.path), length: d.shape![0]! }));
/** Its number; one that has no name is noted by its length alone. One without coordinates may grow, and only what lies along it knows how far. */
function dimensionOf(name: string, length: number): number {
  const number = numberOf.get(name) ?? dimensions.push({ name: '', length }) - 1;
  dimensions[number]!.length = Math.max(dimensions[number]!.length, length);
  return number;
}
const numberOf = new Map(dimensions.map((d, i) => [d.name, i]));
const told: ToldNetcdf = {
  dimensions,
  variables: all
    .filter((d) => !isMadeUp(d))
    .map((d) => {
      const name = plain(d.path);
      const own = numberOf.get(name);
      const shape = d.shape ?? [];
      const along = own === undefined ? shape.map((length, i) => dimensionOf(plain(d.get_attached_scales(i)[0] ?? ''), length)) : [own];
      return { name, dimensions: along, texts: textsOf(d), ends: shape.length === 1 ? endsOf(d) : [] };
    }),
};
file.close();
process.stdout.write(JSON.stringify(told));
