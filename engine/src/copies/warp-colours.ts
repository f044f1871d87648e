import type { Resampling } from '@rootmap/core';
import type { Rgba } from '../pixels/pixel-source.js';
import type { PixelWindow } from '../pixels/pixel-window.js';
import { far, interpolate, isWiderKernel, near, type Places, type Step } from '../pixels/resample.js';

/** Red, green, blue and opacity, each in rows that are `stride` apart; a part of them from `first` on. */
export interface ColourRoom {
  readonly planes: readonly Uint8ClampedArray[];
  readonly first: number;
  readonly width: number;
  readonly stride: number;
}

/**
 * Colours between the pixels of a picture. Where all of it is opaque, as nearly everywhere, its three colours are computed together; else
 * each by itself, and opacity too.
 */
export function warpColours(box: PixelWindow, colours: Rgba, places: Places, resampling: Resampling, step: Step, room: ColourRoom): void {
  if (isOpaque(colours) && !isWiderKernel(resampling, step)) together(box, colours, places, resampling, room);
  else apart(box, colours, places, resampling, step, room);
}

function isOpaque(colours: Rgba): boolean {
  for (let i = 3; i < colours.length; i += 4) if (colours[i] !== 255) return false;
  return true;
}

const OPAQUE = 255;

/** Of four bytes of one colour: `i` and the one `across` from it, above those `down` from them. */
function ofFour(v: Rgba, i: number, across: number, down: number, dx: number, dy: number): number {
  const upper = v[i]! * (1 - dx) + v[i + across]! * dx;
  const lower = v[i + down]! * (1 - dx) + v[i + down + across]! * dx;
  return upper * (1 - dy) + lower * dy;
}

function together({ col, row, width, height }: PixelWindow, v: Rgba, { cols, rows }: Places, way: Resampling, room: ColourRoom): void {
  const [red, green, blue, opacity] = room.planes as [Uint8ClampedArray, Uint8ClampedArray, Uint8ClampedArray, Uint8ClampedArray];
  const line = width * 4;
  let n = 0;
  for (let start = room.first; n < cols.length; start += room.stride)
    for (let to = start; to < start + room.width; to++, n++) {
      const x = cols[n]! - col;
      const y = rows[n]! - row;
      if (!(x >= 0 && x < width && y >= 0 && y < height)) continue;
      opacity[to] = OPAQUE;
      const left = Math.floor(x - 0.5);
      const top = Math.floor(y - 0.5);
      const dx = x - 0.5 - left;
      const dy = y - 0.5 - top;
      if (way === 'cubic' && left >= 1 && top >= 1 && left + 2 < width && top + 2 < height) {
        const a = far(1 + dx);
        const b = near(dx);
        const c = near(1 - dx);
        const d = far(2 - dx);
        let r = 0;
        let g = 0;
        let u = 0;
        for (let k = 0, i = (top - 1) * line + (left - 1) * 4; k < 4; k++, i += line) {
          const e = k === 0 ? far(1 + dy) : k === 1 ? near(dy) : k === 2 ? near(1 - dy) : far(2 - dy);
          r += (v[i]! * a + v[i + 4]! * b + v[i + 8]! * c + v[i + 12]! * d) * e;
          g += (v[i + 1]! * a + v[i + 5]! * b + v[i + 9]! * c + v[i + 13]! * d) * e;
          u += (v[i + 2]! * a + v[i + 6]! * b + v[i + 10]! * c + v[i + 14]! * d) * e;
        }
        red[to] = r;
        green[to] = g;
        blue[to] = u;
      } else if (way === 'nearest') {
        const i = Math.floor(y) * line + Math.floor(x) * 4;
        red[to] = v[i]!;
        green[to] = v[i + 1]!;
        blue[to] = v[i + 2]!;
      } else {
        // At an edge of the picture what lies beyond is as what lies at it.
        const i = Math.max(0, top) * line + Math.max(0, left) * 4;
        const across = left >= 0 && left + 1 < width ? 4 : 0;
        const down = top >= 0 && top + 1 < height ? line : 0;
        red[to] = ofFour(v, i, across, down, dx, dy);
        green[to] = ofFour(v, i + 1, across, down, dx, dy);
        blue[to] = ofFour(v, i + 2, across, down, dx, dy);
      }
    }
}

function apart(box: PixelWindow, colours: Rgba, places: Places, way: Resampling, step: Step, room: ColourRoom): void {
  const channel = new Float64Array(colours.length / 4);
  const made = new Float64Array(places.cols.length);
  let isPartly = false;
  for (let i = 3; i < colours.length; i += 4) isPartly ||= colours[i] !== 0 && colours[i] !== OPAQUE;
  for (let k = 0; k < 4; k++) {
    for (let i = 0; i < channel.length; i++) channel[i] = colours[i * 4 + 3] === 0 ? NaN : colours[i * 4 + k]!;
    made.fill(NaN);
    const whole = { values: made, first: 0, width: made.length, stride: made.length };
    interpolate({ box, values: channel }, places, k === 3 && !isPartly ? 'nearest' : way, step, whole);
    for (let n = 0; n < made.length; n++) {
      if (Number.isNaN(made[n])) continue;
      const line = Math.floor(n / room.width);
      room.planes[k]![room.first + line * room.stride + n - line * room.width] = made[n]!;
    }
  }
}
