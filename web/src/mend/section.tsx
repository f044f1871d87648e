import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';

export function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box>
      <Typography variant="h3">{title}</Typography>
      {children}
    </Box>
  );
}
