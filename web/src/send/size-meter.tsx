import { Box, Stack, Typography } from '@mui/material';
import type { PackPreview } from '@rootmap/core/contract';
import { bytes } from '../parts/format.js';

/** The size against what can carry it. On a logarithmic scale, since carriers differ by powers of a thousand. */
export function SizeMeter({ size, isExact, carriers }: { size: number; isExact: boolean; carriers: PackPreview['carriers'] }) {
  const top = Math.log2(16 * 2 ** 30);
  const at = (n: number): number => Math.min(100, (100 * Math.log2(Math.max(2, n))) / top);
  return (
    <Box>
      <Typography variant="body2">{isExact ? bytes(size) : `about ${bytes(size)} packed, estimated`}</Typography>
      <Box
        sx={{ position: 'relative', height: 12, bgcolor: 'var(--sunk)', borderRadius: '6px', my: 1 }}
        role="img"
        aria-label={isExact ? bytes(size) : `about ${bytes(size)}`}
      >
        <Box sx={{ position: 'absolute', inset: 0, right: 'auto', width: `${at(size)}%`, bgcolor: 'var(--spruce)', borderRadius: '6px' }} />
        {carriers
          .filter((c) => c.limitBytes !== null)
          .map((c) => (
            <Box
              key={c.name}
              sx={{ position: 'absolute', top: -3, bottom: -3, width: '2px', left: `${at(c.limitBytes!)}%`, bgcolor: 'var(--ink)' }}
            />
          ))}
      </Box>
      {carriers.map((c) => (
        <Stack key={c.name} direction="row" sx={{ justifyContent: 'space-between' }}>
          <Typography variant="body2">{c.name}</Typography>
          <Typography variant="body2" sx={{ whiteSpace: c.fits ? 'nowrap' : undefined }} color={c.fits ? 'text.secondary' : 'error'}>
            {c.fits ? 'carries it' : `too large: ${c.why}`}
          </Typography>
        </Stack>
      ))}
    </Box>
  );
}
