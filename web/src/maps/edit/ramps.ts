import type { RasterLook } from '@rootmap/core';
import { interpolateLab } from 'd3-interpolate';

type RampStop = NonNullable<RasterLook['ramp']>[number];

export interface Ramp {
  readonly name: string;
  readonly stops: readonly string[];
}

/** Colour ramps of our own, from low to high; mixed in Lab, so that equal steps look equal. */
export const RAMPS: readonly [Ramp, ...Ramp[]] = [
  { name: 'Spruce', stops: ['#d5e6d2', '#8fc2a5', '#1f6f5c', '#0d3b33'] },
  { name: 'Ochre', stops: ['#f4e2b3', '#e3b45a', '#b9770e', '#5f3a06'] },
  { name: 'Slate', stops: ['#d3deec', '#97b2d6', '#3e5f8a', '#1b2f4c'] },
  { name: 'Plum', stops: ['#f0d3e0', '#d793b8', '#8e2a62', '#471232'] },
  { name: 'Sounding', stops: ['#12324f', '#2f6f93', '#86bcc4', '#e9f0d8'] },
  { name: 'Shore to hill', stops: ['#dfe8d2', '#a9bf83', '#c9a566', '#8a5a3c', '#f4efe6'] },
  { name: 'Low and high', stops: ['#3e5f8a', '#a9bdd3', '#f6f4ee', '#d9a46a', '#8f5d08'] },
];
/** For numbers below and above the level of the sea, which changes its colours at 0. */
export const SEA_AND_LAND = {
  name: 'Sea and land',
  sea: ['#123a5c', '#2f6f93', '#7fb4c4', '#d3e6e4'],
  land: ['#7c9a6a', '#c4b06c', '#96643e', '#f1ece2'],
} as const;

const STEPS = 3;
const round = (n: number): number => Number(n.toPrecision(8));

/** Stops from the lowest to the highest value: all of the sea's up to 0, all of the land's from there. Null: the values have one sign. */
export function seaAndLand(from: number, to: number): readonly RampStop[] | null {
  if (!(from < 0 && to > 0)) return null;
  const stop = (value: number, colour: string): RampStop => ({ value: round(value), colour, opacity: 1 });
  return [
    ...Array.from({ length: STEPS + 1 }, (_, i) => stop(from * (1 - i / STEPS), colourAt(SEA_AND_LAND.sea, i / STEPS))),
    ...Array.from({ length: STEPS + 1 }, (_, i) => stop(i === 0 ? to * 1e-6 : (to * i) / STEPS, colourAt(SEA_AND_LAND.land, i / STEPS))),
  ];
}

export const GREYS = ['#000000', '#ffffff'];
/** Of three bands that are drawn together. */
export const CHANNELS = ['#b23a3a', '#3f8f4f', '#3a63b2'];

/** A colour of a ramp, `#rrggbb`. @param t 0 to 1 */
export function colourAt(stops: readonly string[], t: number): string {
  const at = Math.min(0.999999, Math.max(0, t)) * (stops.length - 1);
  const i = Math.floor(at);
  return toHex(interpolateLab(stops[i]!, stops[i + 1]!)(at - i));
}

export const coloursOf = (stops: readonly string[], n: number): string[] =>
  Array.from({ length: n }, (_, i) => colourAt(stops, n === 1 ? 0.6 : i / (n - 1)));

function toHex(rgb: string): string {
  const [r, g, b] = (/(\d+),\s*(\d+),\s*(\d+)/.exec(rgb) ?? []).slice(1).map(Number);
  return `#${[r, g, b].map((v) => (v ?? 0).toString(16).padStart(2, '0')).join('')}`;
}

/** Tones for values that have no order. */
export const TONES = [
  '#1f6f5c',
  '#b9770e',
  '#3e5f8a',
  '#8e2a62',
  '#7c9a3a',
  '#8a5a3c',
  '#2b93a0',
  '#6e5a8f',
  '#c2566e',
  '#5d6864',
  '#d2a93c',
  '#4f9a6e',
];
