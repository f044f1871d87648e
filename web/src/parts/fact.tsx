import { Box } from '@mui/material';
import type { ReactNode } from 'react';

/** A name and what stands for it, one line of a list of details. */
export const Fact = ({ name, children }: { name: string; children: ReactNode }) => (
  <Box sx={{ display: 'grid', gridTemplateColumns: '68px 1fr', gap: 1, fontSize: 13 }}>
    <Box sx={{ color: 'var(--soft)' }}>{name}</Box>
    <Box sx={{ minWidth: 0, overflowWrap: 'anywhere' }}>{children}</Box>
  </Box>
);
