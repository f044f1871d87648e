import { Box } from '@mui/material';
import { lossWords, type Loss } from '@rootmap/core';

/** What did not come along as it was, or will not. */
export const LossLine = ({ losses, isPlan = false }: { losses: readonly Loss[]; isPlan?: boolean }) =>
  losses.length === 0 ? null : (
    <Box sx={{ borderLeft: '3px solid var(--ochre)', pl: 1, mt: 0.25 }}>
      {isPlan ? 'Will be lost or changed' : 'Lost or changed'}: {losses.map(lossWords).join('; ')}.
    </Box>
  );
