import { units } from '../../parts/format.js';
import { grouped } from '@rootmap/core';
import type { Point } from './map-plane.js';

/** What a person typed to go somewhere: a point of the map's plane, or of the Earth in degrees east and north. */
export type Typed = { readonly kind: 'plane' | 'degrees'; readonly at: Point };

const NUMBER = String.raw`[-+]?\d+(?:[.,]\d+)?`;
const PLAIN = new RegExp(String.raw`^\s*(${NUMBER})\s*[;,\s]\s*(${NUMBER})\s*$`);
const PART = /(\d+(?:[.,]\d+)?)\s*(?:°|d|º|\s)?\s*(?:(\d+(?:[.,]\d+)?)\s*['′m]?\s*)?(?:(\d+(?:[.,]\d+)?)\s*(?:"|″|''|s)?\s*)?([NSEW])/gi;

/**
 * Reads a position: two numbers are x and y of the map's CRS; with N, S, E, W behind them they are degrees, also with minutes
 * and seconds. Null: it is none.
 */
export function readPosition(text: string): Typed | null {
  const parts = [...text.matchAll(PART)];
  if (parts.length === 2 && text.replace(PART, '').trim().replace(/[,;]/g, '') === '') {
    const found: { longitude?: number; latitude?: number } = {};
    for (const [, d, m, s, letter] of parts) {
      const value = num(d) + num(m) / 60 + num(s) / 3600;
      const signed = /[SW]/i.test(letter!) ? -value : value;
      if (/[NS]/i.test(letter!)) found.latitude = signed;
      else found.longitude = signed;
    }
    const { longitude, latitude } = found;
    if (longitude === undefined || latitude === undefined || Math.abs(latitude) > 90 || Math.abs(longitude) > 360) return null;
    return { kind: 'degrees', at: [longitude, latitude] };
  }
  const plain = PLAIN.exec(text.replace(/\b([EN])\s+(?=[-+\d])/gi, ''));
  return plain ? { kind: 'plane', at: [num(plain[1]), num(plain[2])] } : null;
}

const num = (text: string | undefined): number => (text === undefined ? 0 : Number(text.replace(',', '.')));

/** A position as it is shown: E and N with the unit, degrees with five decimals. */
export function positionText([x, y]: Point, unit: string | null): string {
  if (unit === 'degree') return degreesText([x, y]);
  return `E ${grouped(x, 1)}  N ${grouped(y, 1)} ${unit === 'metre' ? 'm' : units(unit ?? '')}`.trim();
}
export const degreesText = ([longitude, latitude]: Point): string =>
  `${Math.abs(latitude).toFixed(5)}° ${latitude < 0 ? 'S' : 'N'}  ${Math.abs(longitude).toFixed(5)}° ${longitude < 0 ? 'W' : 'E'}`;
