import { Box, Button, Drawer, Stack, Typography } from '@mui/material';
import { Link, useLocation } from 'react-router';
import { Tether } from '../parts/tether.js';
import { TopicText } from './topic-text.js';
import { topicOf } from './topics.js';

const BOND = { stored: 'relative', reach: 'inside', state: 'sound' } as const;

/** Below the top line; the page can be used beside it. */
const PAPER = { top: 48, height: 'calc(100% - 48px)', boxShadow: '-4px 0 16px rgba(0, 0, 0, 0.18)' } as const;

/** Help for the page that is open, beside it. */
export default function PageHelp({ onClose }: { onClose: () => void }) {
  const { pathname, search } = useLocation();
  const topic = topicOf(pathname, search);
  return (
    <Drawer
      anchor="right"
      variant="persistent"
      open
      onKeyDown={(e) => e.key === 'Escape' && onClose()}
      slotProps={{ paper: { 'aria-label': 'Help for this page', role: 'dialog', sx: PAPER } }}
    >
      <Box sx={{ width: 'min(420px, 100vw)', p: 2.5, boxSizing: 'border-box' }}>
        <Stack direction="row" sx={{ alignItems: 'center', justifyContent: 'space-between', mb: 1 }}>
          <Typography variant="h1" component="h2">
            {topic?.title ?? 'Help'}
          </Typography>
          <Button autoFocus onClick={onClose}>
            Close
          </Button>
        </Stack>
        {topic ? <TopicText topic={topic} /> : <Typography>For this page there is no help of its own.</Typography>}
        <Stack direction="row" spacing={1} sx={{ mt: 2.5, alignItems: 'center' }}>
          <Tether bond={BOND} />
          <Link to="/help" onClick={onClose}>
            All help, and how to read a tether
          </Link>
        </Stack>
      </Box>
    </Drawer>
  );
}
