import { Box, MenuItem, TextField } from '@mui/material';
import type { ThreeBands } from '@rootmap/core';

interface BandProps {
  readonly label: string;
  readonly value: number;
  readonly bands: number;
  readonly onChange: (band: number) => void;
}

/** A band of a raster, from 1. */
export const BandField = ({ label, value, bands, onChange }: BandProps) => (
  <TextField select size="small" label={label} value={value} onChange={(e) => onChange(Number(e.target.value))} sx={{ width: 84 }}>
    {Array.from({ length: Math.max(bands, value) }, (_, i) => (
      <MenuItem key={i} value={i + 1}>
        {i + 1}
      </MenuItem>
    ))}
  </TextField>
);

interface ThreeProps {
  readonly value: ThreeBands;
  readonly bands: number;
  readonly onChange: (three: ThreeBands) => void;
}

/** Which bands are red, green and blue. */
export const ThreeBandsField = ({ value, bands, onChange }: ThreeProps) => (
  <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
    {(['Red', 'Green', 'Blue'] as const).map((label, i) => (
      <BandField
        key={label}
        label={label}
        value={value[i]!}
        bands={bands}
        onChange={(n) => onChange(value.map((b, k) => (k === i ? n : b)) as unknown as ThreeBands)}
      />
    ))}
  </Box>
);
