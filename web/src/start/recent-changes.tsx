import { Box, Button, Stack, Typography } from '@mui/material';
import { Link } from 'react-router';
import { useJournal } from '../api/queries.js';
import { dateTime } from '../parts/format.js';
import { Sheet } from '../parts/states.js';

const MOST_SHOWN = 6;

/** What was changed on disk last. */
export function RecentChanges() {
  const journal = useJournal({});
  const shown = (journal.data ?? []).slice(0, MOST_SHOWN);
  return (
    <Sheet sx={{ p: 2 }}>
      <Stack direction="row" sx={{ justifyContent: 'space-between', alignItems: 'center', mb: 0.5 }}>
        <Typography variant="h2">Changed last</Typography>
        <Button component={Link} to="/journal" aria-label="Changed last: all of the journal">
          All
        </Button>
      </Stack>
      <Box component="ul" aria-label="Changed last" sx={{ m: 0, p: 0, listStyle: 'none' }}>
        {shown.map((c) => (
          <Stack
            component="li"
            key={c.id}
            direction="row"
            spacing={1.5}
            sx={{ py: 0.5, borderTop: '1px solid var(--rule)', alignItems: 'baseline' }}
          >
            <Typography component="span" variant="body2" color="text.secondary" sx={{ flex: 'none' }}>
              {dateTime(c.createdMs)}
            </Typography>
            <Typography component="span" sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
              {c.title}
            </Typography>
            {c.state === 'undone' && (
              <Typography component="span" variant="body2" color="text.secondary">
                undone
              </Typography>
            )}
          </Stack>
        ))}
      </Box>
      {journal.data?.length === 0 && (
        <Typography color="text.secondary">
          Nothing yet. What Root Map changes on disk is written down here first, and each change can be taken back.
        </Typography>
      )}
    </Sheet>
  );
}
