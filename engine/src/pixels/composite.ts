import type { Loss, ThreeBands } from '@rootmap/core';
import type { PixelSource } from './pixel-source.js';

/** The value that has no colour, and the one that has all of it. */
export interface Level {
  readonly from: number;
  readonly to: number;
}

/** Three bands of numbers as the red, green and blue of a picture. */
export interface Composite {
  readonly pixels: PixelSource;
  /** Of red, green and blue. */
  readonly levels: readonly Level[];
}

const BYTES: Level = { from: 0, to: 255 };
/** So many rows and columns, evenly spread, are looked at to find between which values a band lies. */
const SAMPLES = 256;
/** 2 % of the values are darker than black and 2 % lighter than white (common practice, no source): as maps draw them. */
const CUT = 0.02;

/**
 * A picture of bands, from 1, in their order red, green, blue. Bands of bytes are colours as they are; others are spread over 256 levels.
 * A pixel that lacks one of them is transparent.
 */
export async function compositeOf(pixels: PixelSource, bands: ThreeBands): Promise<Composite> {
  const levels = pixels.isBytes ? bands.map(() => BYTES) : await Promise.all(bands.map((b) => levelOf(pixels, b - 1)));
  const { width, height } = pixels;
  const picture: PixelSource = {
    width,
    height,
    bands: 0,
    isReduced: pixels.isReduced ?? false,
    get damaged() {
      return pixels.damaged ?? 0;
    },
    values: () => Promise.resolve(null),
    async colours(cols, rows, step) {
      const out = new Uint8ClampedArray(cols.length * 4);
      for (let i = 3; i < out.length; i += 4) out[i] = 255;
      for (const [k, band] of bands.entries()) {
        const values = await pixels.values(cols, rows, step, band - 1);
        if (!values) return null;
        const { from, to } = levels[k]!;
        for (let i = 0; i < values.length; i++) {
          if (Number.isFinite(values[i])) out[i * 4 + k] = Math.round(((values[i]! - from) / (to - from)) * 255);
          else out[i * 4 + 3] = 0;
        }
      }
      for (let i = 0; i < out.length; i += 4) if (out[i + 3] === 0) out.fill(0, i, i + 3);
      return out;
    },
    close: () => pixels.close(),
  };
  return { pixels: picture, levels };
}

async function levelOf(pixels: PixelSource, band: number): Promise<Level> {
  const [across, down] = [Math.min(SAMPLES, pixels.width), Math.min(SAMPLES, pixels.height)];
  const cols = Int32Array.from({ length: across * down }, (_, i) => Math.floor((((i % across) + 0.5) / across) * pixels.width));
  const rows = Int32Array.from({ length: across * down }, (_, i) => Math.floor(((Math.floor(i / across) + 0.5) / down) * pixels.height));
  const values = (await pixels.values(cols, rows, 1, band))?.filter((v) => Number.isFinite(v)).sort() ?? new Float64Array();
  if (values.length === 0) return BYTES;
  const at = (share: number): number => values[Math.min(values.length - 1, Math.floor(share * values.length))]!;
  const [from, to] = [at(CUT), at(1 - CUT)];
  return from < to ? { from, to } : { from: values[0]!, to: Math.max(values.at(-1)!, values[0]! + 1) };
}

/** What of a raster does not come along into such a picture. @param levels null: not known yet */
export function compositeLosses(all: number, bands: ThreeBands, isBytes: boolean, levels: readonly Level[] | null): Loss[] {
  const others = all - new Set(bands).size;
  const told = (k: number): string => {
    const level = levels?.[k];
    return `band ${bands[k]}${level ? ` from ${word(level.from)} to ${word(level.to)}` : ''}`;
  };
  return [
    ...(others > 0 ? [{ code: 'bands' as const, what: others === 1 ? 'other band' : 'other bands', count: others }] : []),
    ...(isBytes
      ? []
      : [
          {
            code: 'digits' as const,
            what: `its numbers, which become 256 levels of red (${told(0)}), green (${told(1)}) and blue (${told(2)})`,
            count: null,
          },
        ]),
  ];
}

const word = (value: number): string => String(Number(value.toPrecision(6)));
