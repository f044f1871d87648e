import { mdiContentCopy } from '@mdi/js';
import { Box, IconButton } from '@mui/material';
import { copyText } from '../../parts/copy-text.js';
import { Icon } from '../../parts/icon.js';

export interface NamedValue {
  readonly name: string;
  readonly value: string | null;
}

/** One value below the other, each to be copied by itself. */
export const Values = ({ values }: { values: readonly NamedValue[] }) => (
  <Box
    component="dl"
    tabIndex={0}
    aria-label="Values"
    sx={{
      m: 0,
      maxHeight: 260,
      overflow: 'auto',
      display: 'grid',
      gridTemplateColumns: 'minmax(90px, auto) minmax(0, 1fr) 26px',
      fontSize: 13,
      '& > *': { borderBottom: '1px solid var(--rule)', minHeight: 26, display: 'flex', alignItems: 'center' },
    }}
  >
    {values.map(({ name, value }) => (
      <Line key={name} name={name} value={value} />
    ))}
  </Box>
);

const Line = ({ name, value }: NamedValue) => (
  <>
    <Box component="dt" sx={{ color: 'text.secondary', pr: 1, overflowWrap: 'anywhere' }}>
      {name}
    </Box>
    <Box component="dd" sx={{ m: 0, overflowWrap: 'anywhere', color: value === null ? 'text.secondary' : undefined }}>
      {value ?? 'empty'}
    </Box>
    <Box component="dd" sx={{ m: 0 }}>
      {value !== null && value !== '' && (
        <IconButton size="small" aria-label={`Copy ${name}`} onClick={() => void copyText(value)} sx={{ p: 0.25 }}>
          <Icon path={mdiContentCopy} sx={{ fontSize: 14 }} />
        </IconButton>
      )}
    </Box>
  </>
);

/** As rows of a table of two columns, which every program takes. */
export const asText = (values: readonly NamedValue[]): string => values.map(({ name, value }) => `${name}\t${value ?? ''}`).join('\n');
