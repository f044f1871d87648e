import { Box, MenuItem, TextField } from '@mui/material';
import { RAMPS, type Ramp } from './ramps.js';

export const RampChoice = ({ value, onChange }: { value: string; onChange: (ramp: Ramp) => void }) => (
  <TextField
    select
    size="small"
    label="Ramp"
    value={value}
    onChange={(e) => RAMPS.filter((r) => r.name === e.target.value).forEach(onChange)}
    sx={{ width: 150 }}
  >
    {RAMPS.map((r) => (
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
