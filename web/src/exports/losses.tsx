import { Box, Typography } from '@mui/material';
import { lossWords, type Loss } from '@rootmap/core';

/** What a format cannot hold of the data. */
export const Losses = ({ losses }: { losses: readonly Loss[] }) =>
  losses.length === 0 ? null : (
    <Box component="section" aria-label="What it cannot hold" sx={{ mt: 1.5, borderLeft: '3px solid var(--ochre)', pl: 1.25 }}>
      <Typography variant="h3" component="h3">
        What it cannot hold
      </Typography>
      {losses.map(lossWords).map((words) => (
        <div key={words}>{words}</div>
      ))}
    </Box>
  );
