import type { ByteSource } from '../../bytes/byte-source.js';
import { crsOfCode, identifyCrs } from '../../crs/identify.js';
import type { CrsTable } from '../../crs/crs-table.js';
import { emptyDescription, unreadable, type Crs, type Description, type Extent, type FileGroup } from '../../dataset/dataset.js';
import { readNetcdfHeader, type NetcdfHeader, type Variable } from './netcdf-header.js';

const HDF5 = [0x89, 0x48, 0x44, 0x46, 0x0d, 0x0a, 0x1a, 0x0a];

interface Reading {
  open(path: string): ByteSource;
  readonly crs: CrsTable;
  /** What one of version 4, which is kept as HDF5, says of itself; null: it cannot be read. */
  readNetcdf4(group: FileGroup): NetcdfHeader | null;
}

/**
 * Grids of a NetCDF, classic (the format specification of Unidata: CDF-1, CDF-2, CDF-5) or of version 4, each a table: their size,
 * place and CRS by the conventions for climate and forecast metadata (CF 1.10, chapters 4 and 5). Their numbers are not read.
 */
export function describeNetcdf(group: FileGroup, platform: Reading): Description[] {
  const { crs: table } = platform;
  const source = platform.open(group.path);
  const start = source.read(0, 8);
  const isFour = HDF5.every((b, i) => start[i] === b);
  const header = isFour ? platform.readNetcdf4(group) : readNetcdfHeader(source);
  if (!header)
    return [
      unreadable(
        'raster',
        isFour
          ? `${group.path} cannot be read as NetCDF of version 4 (HDF5): it is damaged, or kept in a way that is not read here.`
          : `${group.path} cannot be read as NetCDF: its header is damaged, or it begins otherwise.`,
      ),
    ];
  const grids = header.variables.filter((v) => v.dimensions.length >= 2 && axisOf(header, v, -1) && axisOf(header, v, -2));
  if (grids.length === 0) return [unreadable('raster', `${group.path} is a NetCDF without a grid whose axes have coordinates.`)];
  return grids.map((v) => gridOf(group, source, header, v, table));
}

/** The variable of one number a place along a dimension, which has its name; counted from the last. */
function axisOf({ variables, dimensions }: NetcdfHeader, { dimensions: own }: Variable, at: -1 | -2): Variable | undefined {
  const dimension = own.at(at)!;
  return variables.find((v) => v.dimensions.length === 1 && v.dimensions[0] === dimension && v.name === dimensions[dimension]!.name);
}

function gridOf(group: FileGroup, source: ByteSource, header: NetcdfHeader, v: Variable, table: CrsTable): Description {
  const [across, down] = [axisOf(header, v, -1)!, axisOf(header, v, -2)!];
  const [width, height] = [v.dimensions.at(-1)!, v.dimensions.at(-2)!].map((d) => header.dimensions[d]!.length) as [number, number];
  const layers = v.dimensions.slice(0, -2).reduce((product, d) => product * header.dimensions[d]!.length, 1);
  const crs = crsOf(header, v, across, table);
  const bbox = extentOf(source, across, width, down, height);
  return {
    ...emptyDescription('raster'),
    table: v.name,
    crs,
    bbox,
    raster: { width, height, pixel: bbox ? [(bbox[2] - bbox[0]) / width, (bbox[3] - bbox[1]) / height] : [1, 1], bands: layers },
    findings: [
      ...(crs
        ? []
        : [{ code: 'no-crs', message: `${group.path}: ${v.name} does not say its CRS.`, fix: 'Ask its publisher, or state the CRS.' }]),
      { code: 'listed-only', message: `${group.path}: ${v.name} is listed with its size and place. Its numbers are not read here.` },
    ],
  };
}

/** Coordinates are those of the middles of cells, which lie side by side evenly. Null: they do not, as far as both ends tell. */
function extentOf(source: ByteSource, across: Variable, width: number, down: Variable, height: number): Extent | null {
  const side = (axis: Variable, count: number): readonly [number, number] | null => {
    const [first, second, last] = [0, 1, count - 1].map((i) => axis.numberAt(source, i)) as [number | null, number | null, number | null];
    if (count < 2 || first === null || second === null || last === null) return null;
    const step = (last - first) / (count - 1);
    if (!Number.isFinite(step) || step === 0 || Math.abs(second - first - step) > Math.abs(step) / 100) return null;
    return [Math.min(first, last) - Math.abs(step) / 2, Math.max(first, last) + Math.abs(step) / 2];
  };
  const [x, y] = [side(across, width), side(down, height)];
  return x && y ? [x[0], y[0], x[1], y[1]] : null;
}

/** A grid mapping with a text or a code; else degrees are those of WGS 84, which CF leaves open (common practice). */
function crsOf(header: NetcdfHeader, v: Variable, across: Variable, table: CrsTable): Crs | null {
  const mapping = header.variables.find((m) => m.name === v.texts.get('grid_mapping'));
  const wkt = mapping?.texts.get('crs_wkt') ?? mapping?.texts.get('spatial_ref');
  if (wkt) return identifyCrs(wkt, table);
  const code = /EPSG:+(\d+)/i.exec(mapping?.texts.get('epsg_code') ?? '')?.[1];
  if (code) return crsOfCode(`EPSG:${code}`, table);
  return /^degrees?_?e/i.test(across.texts.get('units') ?? '') ? crsOfCode('EPSG:4326', table) : null;
}
