import { Box, Checkbox } from '@mui/material';

interface Props {
  readonly label: string;
  readonly value: string | null;
  /** Left out: there is always a colour. */
  readonly onNone?: () => void;
  readonly onChange: (colour: string) => void;
}

/** A colour, and where it may be none a box that takes it away. */
export const ColourField = ({ label, value, onChange, onNone }: Props) => (
  <Box component="label" sx={{ display: 'inline-flex', alignItems: 'center', gap: 0.75, fontSize: 13 }}>
    {onNone && (
      <Checkbox
        size="small"
        sx={{ p: 0.25 }}
        checked={value !== null}
        onChange={(e) => (e.target.checked ? onChange(value ?? '#1f6f5c') : onNone())}
        slotProps={{ input: { 'aria-label': `${label}: drawn` } }}
      />
    )}
    <input
      type="color"
      aria-label={label}
      value={value ?? '#888888'}
      disabled={value === null}
      onChange={(e) => onChange(e.target.value)}
      style={{ width: 30, height: 24, padding: 0, border: '1px solid var(--rule)', borderRadius: 4, background: 'none' }}
    />
    {label}
  </Box>
);
