import { EPSG_CODE, ProblemError, EVERY_RECORD } from '@rootmap/core';
import type { Selection } from '@rootmap/core/contract';
import { textFlag, type Call } from './command.js';

const wrongUse = (message: string): ProblemError => new ProblemError({ code: 'wrong-use', message });

/** Flags by which a command says which records it means. */
export const SELECTION_FLAGS = {
  where: { type: 'string' },
  box: { type: 'string' },
  'box-crs': { type: 'string' },
} as const;

/** A code such as EPSG:32624; null: the flag was not named. */
export function crsFlag(call: Call, name: string): string | null {
  const crs = textFlag(call, name);
  if (crs !== null && !EPSG_CODE.test(crs)) throw wrongUse(`--${name} takes a code such as EPSG:32624.`);
  return crs;
}

/** Which records are meant; null: all of them. */
export function selectionFrom(call: Call): Selection | null {
  const [filter, box, crs] = [textFlag(call, 'where'), textFlag(call, 'box'), crsFlag(call, 'box-crs')];
  if (filter === null && box === null) {
    if (crs !== null) throw wrongUse('--box-crs says in which CRS the numbers of --box are: name a --box.');
    return null;
  }
  return { ...EVERY_RECORD, filter: filter ?? '', area: box === null ? null : { crs, corners: cornersOf(box) } };
}

function cornersOf(box: string): [number, number][] {
  const sides = box.split(',').map(Number);
  const [minx, miny, maxx, maxy] = sides;
  if (sides.length !== 4 || !sides.every(Number.isFinite) || !(minx! < maxx! && miny! < maxy!))
    throw wrongUse('--box takes four numbers with commas between: west, south, east, north, in the CRS of the data or of --box-crs.');
  return [
    [minx!, miny!],
    [maxx!, miny!],
    [maxx!, maxy!],
    [minx!, maxy!],
  ];
}
