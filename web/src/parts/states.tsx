import { Box, Button, CircularProgress, Stack, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { ServerProblem } from '../api/client.js';

/** An empty place that teaches the next step: one sentence, one button. */
export function EmptyState({ title, children, action }: { title: string; children: ReactNode; action?: ReactNode }) {
  return (
    <Stack spacing={1.5} sx={{ alignItems: 'flex-start', maxWidth: 460, p: 4, mx: 'auto', mt: 6 }}>
      <Typography variant="h2" component="p">
        {title}
      </Typography>
      <Typography color="text.secondary">{children}</Typography>
      {action}
    </Stack>
  );
}

export const sentenceOf = (error: unknown): string =>
  error instanceof ServerProblem ? error.details.detail : 'Something went wrong on this page. Reload it, and report it if it stays.';

/** A failure where its result would have been: what, why, and a way on. */
export function ErrorState({ error, onRetry }: { error: unknown; onRetry?: () => void }) {
  return (
    <Box role="alert" sx={{ m: 2, p: 2, borderLeft: '4px solid var(--plum)', bgcolor: 'var(--plum-wash)', borderRadius: 1, maxWidth: 760 }}>
      <Typography>{sentenceOf(error)}</Typography>
      {onRetry && (
        <Button onClick={onRetry} sx={{ mt: 1 }}>
          Try again
        </Button>
      )}
    </Box>
  );
}

export const Waiting = ({ what }: { what: string }) => (
  <Stack direction="row" spacing={1.5} role="status" sx={{ p: 4, alignItems: 'center' }}>
    <CircularProgress size={18} aria-hidden />
    <Typography color="text.secondary">{what}</Typography>
  </Stack>
);

/** A card of the app: a sheet with a thin rule around it. */
export const Sheet = ({ children, sx = {} }: { children: ReactNode; sx?: object }) => (
  <Box sx={{ bgcolor: 'var(--sheet)', border: '1px solid var(--rule)', borderRadius: '6px', minWidth: 0, ...sx }}>{children}</Box>
);

type Tone = 'spruce' | 'ochre' | 'plum' | 'slate';
/** A short word in a coloured wash; the word says it, the colour only repeats it. */
export const Tag = ({ tone, children }: { tone: Tone; children: ReactNode }) => (
  <Box
    component="span"
    sx={{
      px: 0.75,
      py: 0.125,
      borderRadius: '4px',
      fontSize: 12,
      fontWeight: 650,
      whiteSpace: 'nowrap',
      color: `var(--${tone})`,
      bgcolor: `var(--${tone}-wash)`,
    }}
  >
    {children}
  </Box>
);
