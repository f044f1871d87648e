import { unitMetres, worstOver, type DegreeBox } from '@rootmap/core';
import type { CrsAdvice, CrsProposal } from '@rootmap/core/contract';
import { definitionOf } from './definitions.js';
import { crsAround, crsNamed } from './search-crs.js';
import { transformer } from './transformer.js';

/** Projections that are proposed, in words: each for another shape of extent (Snyder 1987, table 1 and chapter 5). */
const METHODS: readonly { readonly proj: RegExp; readonly method: string; readonly why: string }[] = [
  { proj: /\+proj=(utm|tmerc)\b/, method: 'Transverse Mercator', why: 'true to angles, best where the extent is narrow from west to east' },
  { proj: /\+proj=lcc\b/, method: 'Lambert conformal conic', why: 'true to angles, best where the extent is wide from west to east' },
  { proj: /\+proj=aea\b/, method: 'Albers equal area', why: 'true to areas, best where the extent is wide from west to east' },
  { proj: /\+proj=laea\b/, method: 'Lambert azimuthal equal area', why: 'true to areas, best where the extent is as high as wide' },
];
const OF_EACH = 2;
/** A length that is so far off is no length: another CRS is proposed where there is one. */
const FAR_OFF_PER_MILLE = 50;

export interface AdvisedLayer {
  readonly crs: string | null;
  readonly isRaster: boolean;
  readonly name: string;
  readonly degrees: DegreeBox | null;
}

/**
 * What a map of some layers could be drawn in. The first raster's CRS is proposed, since computing a raster anew costs quality
 * and time while shapes are exact; else that of the first layer. Degrees propose a projected CRS that suits the extent.
 */
export function adviseCrs(layers: readonly AdvisedLayer[]): CrsAdvice {
  const degrees = boxOf(layers);
  const others = degrees ? suited(degrees, layers) : [];
  // What says nothing of where it lies cannot tell in which CRS the others are drawn well.
  const placed = layers.filter((l) => l.crs !== null && (l.degrees !== null || degrees === null));
  const first = placed.find((l) => l.isRaster) ?? placed[0] ?? layers.find((l) => l.crs !== null);
  if (!first) {
    const [best, ...rest] = others;
    const without = layers.find((l) => l.degrees !== null)?.name;
    const why = best && `No code is registered for the CRS of ${without}. ${best.why}`;
    return { proposed: best ? { ...best, why: why! } : null, others: rest, degrees };
  }
  const own = proposal(first.crs!, degrees, whyOf(first, layers));
  if (own && own.crs.unit !== 'degree' && own.lengthPerMille > FAR_OFF_PER_MILLE && !isWhole(first, degrees)) {
    const inDegrees = layers.find((l) => l.crs !== null && crsNamed(l.crs)?.unit === 'degree')?.crs ?? 'EPSG:4326';
    const [best, ...rest] = [...others, proposal(inDegrees, degrees, 'No plane CRS is true over all of it.')].filter(
      (o): o is CrsProposal => o !== null && o.crs.code !== own.crs.code && o.lengthPerMille < own.lengthPerMille / 2,
    );
    if (best) {
      const why = `The layers reach far beyond where ${own.crs.name}, the CRS of ${first.name}, is true. ${best.why}`;
      return { proposed: { ...best, why }, others: [...rest, own], degrees };
    }
  }
  if (own && own.crs.unit !== 'degree') return { proposed: own, others: others.filter((o) => o.crs.code !== own.crs.code), degrees };
  const [best, ...rest] = others;
  const why = best && `${first.name} is in degrees, in which lengths and areas cannot be measured. ${best.why}`;
  return best ? { proposed: { ...best, why: why! }, others: own ? [...rest, own] : rest, degrees } : { proposed: own, others, degrees };
}

function whyOf(first: AdvisedLayer, layers: readonly AdvisedLayer[]): string {
  if (layers.length === 1) return `${first.name} is in it.`;
  return first.isRaster
    ? `Proposed by ${first.name}, the raster: computing a raster anew costs quality and time, shapes are exact in any CRS.`
    : `Proposed by ${first.name}, the first layer.`;
}

/** The layer reaches as far as all of them together, a tenth left out: its own CRS is then no worse for the others. */
function isWhole({ degrees: own }: AdvisedLayer, all: DegreeBox | null): boolean {
  if (!own || !all) return false;
  const covers = (low: number, high: number): boolean => own[high]! - own[low]! >= 0.9 * (all[high]! - all[low]!);
  return covers(0, 2) && covers(1, 3);
}

/** The box of all layers, in degrees. */
function boxOf(layers: readonly { readonly degrees: DegreeBox | null }[]): DegreeBox | null {
  const boxes = layers.flatMap((l) => (l.degrees ? [l.degrees] : []));
  if (boxes.length === 0) return null;
  return [
    Math.min(...boxes.map((b) => b[0])),
    Math.min(...boxes.map((b) => b[1])),
    Math.max(...boxes.map((b) => b[2])),
    Math.max(...boxes.map((b) => b[3])),
  ];
}

/** The best registered CRSs of each method whose area of use holds the extent, the least distortion of lengths first. */
function suited(degrees: DegreeBox, layers: readonly AdvisedLayer[]): CrsProposal[] {
  const datums = layers.flatMap((l) => (l.crs === null ? [] : [datumOf(crsNamed(l.crs)?.name ?? '')]));
  const byMethod = new Map<string, CrsProposal[]>();
  for (const crs of crsAround(degrees)) {
    const found = proposal(crs.code, degrees, '');
    if (found) byMethod.set(found.method, [...(byMethod.get(found.method) ?? []), found]);
  }
  const isAtHome = (p: CrsProposal): boolean => datums.includes(datumOf(p.crs.name));
  // Of nearly equal distortion the one on the data's own datum, then the one that receivers give.
  const rank = (p: CrsProposal): number =>
    Math.round(p.lengthPerMille * 5) - (isAtHome(p) ? 0.5 : 0) - (p.crs.name.startsWith('WGS 84') ? 0.25 : 0);
  return [...byMethod.values()]
    .flatMap((all) => all.sort((a, b) => rank(a) - rank(b) || a.crs.code.length - b.crs.code.length).slice(0, OF_EACH))
    .sort((a, b) => rank(a) - rank(b));
}

/** `WGS 84 / UTM zone 24N` is on `WGS 84`. */
const datumOf = (name: string): string => name.split(' / ')[0]!;

function proposal(code: string, degrees: DegreeBox | null, why: string): CrsProposal | null {
  const [crs, string] = [crsNamed(code), definitionOf(code)?.proj4];
  if (!crs || !string) return null;
  const known = METHODS.find((m) => m.proj.test(string));
  if (why === '' && !known) return null;
  const forward = transformer('EPSG:4326', code);
  const metres = unitMetres(string);
  const worst = degrees && forward && crs.unit !== 'degree' ? worstOver((x, y) => inMetres(forward(x, y), metres), degrees) : null;
  if (why === '' && !worst) return null;
  return {
    crs,
    why: why === '' ? `${known!.method}: ${known!.why}.` : why,
    method: known?.method ?? (crs.unit === 'degree' ? 'degrees' : 'another projection'),
    lengthPerMille: worst?.length ?? 0,
    areaPerMille: worst?.area ?? 0,
  };
}

const inMetres = (at: readonly [number, number] | null, metres: number): readonly [number, number] | null =>
  at && [at[0] * metres, at[1] * metres];
