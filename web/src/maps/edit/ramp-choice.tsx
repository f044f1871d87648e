import { Box, MenuItem, TextField } from '@mui/material';
import { RAMPS, SEA_AND_LAND, type Ramp } from './ramps.js';

interface Props {
  readonly value: string;
  readonly onChange: (ramp: Ramp) => void;
  /** Chooses the one that changes at 0; left out: the values have one sign. */
  readonly onSeaAndLand?: (() => void) | undefined;
}

export const RampChoice = ({ value, onChange, onSeaAndLand }: Props) => (
  <TextField
    select
    size="small"
    label="Ramp"
    value={value}
    onChange={(e) =>
      e.target.value === SEA_AND_LAND.name ? onSeaAndLand?.() : RAMPS.filter((r) => r.name === e.target.value).forEach(onChange)
    }
    sx={{ width: 150 }}
  >
    {[...(onSeaAndLand ? [{ name: SEA_AND_LAND.name, stops: [...SEA_AND_LAND.sea, ...SEA_AND_LAND.land] }] : []), ...RAMPS].map((r) => (
      <MenuItem key={r.name} value={r.name}>
        <Box
          sx={{
            width: 44,
            height: 12,
            mr: 1,
            borderRadius: '3px',
            background: `linear-gradient(90deg, ${r.stops.join(', ')})`,
            display: 'inline-block',
          }}
        />
        {r.name}
      </MenuItem>
    ))}
  </TextField>
);
