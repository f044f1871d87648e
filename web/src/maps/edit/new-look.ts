import { plainSymbol, type LayerSymbol, type Look, type ShapeKind, type VectorLook } from '@rootmap/core';
import type { ClassesView } from '@rootmap/core/contract';
import { coloursOf, TONES } from './ramps.js';

export const symbolOfLook = (look: Look, kind: ShapeKind): LayerSymbol => {
  if (look.kind === 'one') return look.symbol;
  if (look.kind === 'by-value' || look.kind === 'by-class') return look.entries[0]?.symbol ?? plainSymbol(kind);
  return look.kind === 'rules' ? (look.rules[0]?.symbol ?? plainSymbol(kind)) : plainSymbol(kind);
};

/** The symbol in another tone: the fill of points and areas, the stroke of lines. */
export function toned(symbol: LayerSymbol, tone: string, kind: ShapeKind): LayerSymbol {
  if (kind === 'line') return { ...symbol, stroke: tone };
  const isOwnStroke = symbol.stroke !== null && symbol.stroke === symbol.fill;
  return {
    ...symbol,
    fill: tone,
    ...(isOwnStroke ? { stroke: tone } : {}),
    ...(kind === 'area' || kind === 'mixed' ? { fillOpacity: Math.max(symbol.fillOpacity, 0.75) } : {}),
  };
}

export function byValueLook(field: string, { values }: ClassesView, base: LayerSymbol, kind: ShapeKind, isCut: boolean): VectorLook {
  return {
    kind: 'by-value',
    field,
    entries: values.map(({ value }, i) => ({
      value,
      title: value === null ? 'no value' : String(value),
      symbol: toned(base, TONES[i % TONES.length]!, kind),
    })),
    other: isCut ? toned(base, '#8b948f', kind) : null,
  };
}

const shown = (n: number): string => String(Number(n.toPrecision(6)));

export function byClassLook(
  field: string,
  method: 'equal' | 'quantile' | 'natural' | 'given',
  breaks: readonly number[],
  base: LayerSymbol,
  kind: ShapeKind,
  ramp: readonly string[],
): VectorLook | null {
  if (breaks.length < 2) return null;
  const tones = coloursOf(ramp, breaks.length - 1);
  return {
    kind: 'by-class',
    field,
    method,
    breaks,
    entries: tones.map((tone, i) => ({ title: `${shown(breaks[i]!)} to ${shown(breaks[i + 1]!)}`, symbol: toned(base, tone, kind) })),
  };
}
