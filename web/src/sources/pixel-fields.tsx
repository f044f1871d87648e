import { Box, MenuItem, TextField } from '@mui/material';
import { RESAMPLINGS, type Resampling } from '@rootmap/core';
import type { CopiesRequest, PlannedRaster } from '@rootmap/core/contract';
import { number } from '../parts/format.js';

/** How the pixels of a copy are wanted, as typed. */
export interface PixelWish {
  readonly resampling: Resampling | 'suits';
  readonly side: string;
}
export const AS_SUITS: PixelWish = { resampling: 'suits', side: '' };

/** What is not a length of a side is no wish. */
export function wishOf({ resampling, side }: PixelWish): Pick<CopiesRequest, 'resampling' | 'pixel'> {
  const pixel = Number(side);
  return { ...(resampling !== 'suits' && { resampling }), ...(side.trim() !== '' && pixel > 0 && { pixel }) };
}

export const RESAMPLING_WORDS: Readonly<Record<Resampling, string>> = {
  nearest: 'Nearest pixel',
  bilinear: 'Bilinear',
  cubic: 'Cubic',
};

export const pixelWords = ({ width, height, pixel }: PlannedRaster): string =>
  `${number(width)} × ${number(height)} pixels of ${Number(pixel.toPrecision(6))}`;

/** How pixels are computed, and how large they become. */
export function PixelFields({ wish, onChange }: { wish: PixelWish; onChange: (wish: PixelWish) => void }) {
  const isWrong = wish.side.trim() !== '' && !(Number(wish.side) > 0);
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1, mb: 1.5 }}>
      <TextField
        select
        size="small"
        label="Pixels of rasters"
        value={wish.resampling}
        onChange={(e) => onChange({ ...wish, resampling: e.target.value as PixelWish['resampling'] })}
      >
        <MenuItem value="suits">As suits each</MenuItem>
        {RESAMPLINGS.map((r) => (
          <MenuItem key={r} value={r}>
            {RESAMPLING_WORDS[r]}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        size="small"
        label="Side of a pixel"
        value={wish.side}
        onChange={(e) => onChange({ ...wish, side: e.target.value })}
        error={isWrong}
        helperText={isWrong ? 'A number above 0, in the units of the CRS.' : 'In the units of the CRS; empty: as theirs come to lie.'}
      />
    </Box>
  );
}
