import { Stack, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { Sheet } from '../parts/states.js';

/** One of the four steps of a bundle, from left to right; it scrolls by itself. */
export const Step = ({
  number,
  title,
  subtitle,
  children,
}: {
  number: number;
  title: string;
  subtitle: ReactNode;
  children: ReactNode;
}) => (
  <Sheet sx={{ p: 1.75, display: 'flex', flexDirection: 'column', minHeight: 0 }}>
    <Typography variant="h2" id={`step-${number}`}>
      {number} · {title}
    </Typography>
    <Typography variant="body2" color="text.secondary" sx={{ mb: 0.25 }}>
      {subtitle}
    </Typography>
    <Stack
      spacing={1.5}
      role="region"
      aria-labelledby={`step-${number}`}
      tabIndex={0}
      sx={{ overflow: 'auto', flex: 1, minHeight: 0, pt: 1, pr: 0.5, outlineOffset: '-2px' }}
    >
      {children}
    </Stack>
  </Sheet>
);
