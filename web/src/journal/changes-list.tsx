import { Box, Button, Stack, Typography } from '@mui/material';
import { Link } from 'react-router';
import { useJournal } from '../api/queries.js';
import { dateTime } from '../parts/format.js';
import { Sheet } from '../parts/states.js';

interface Props {
  readonly title: string;
  /** Only changes of this sort, or of this project. */
  readonly kind?: string;
  readonly project?: string;
  /** What is said where there is none. */
  readonly empty: string;
}

const MOST_SHOWN = 6;

/** What was changed on disk last, the newest first. */
export function ChangesList({ title, kind, project, empty }: Props) {
  const only = { ...(kind === undefined ? {} : { kind }), ...(project === undefined ? {} : { project }) };
  const journal = useJournal(only);
  const shown = (journal.data ?? []).slice(0, MOST_SHOWN);
  const search = new URLSearchParams(only).toString();
  return (
    <Sheet sx={{ p: 2 }}>
      <Stack direction="row" sx={{ justifyContent: 'space-between', alignItems: 'center', mb: 0.5 }}>
        <Typography variant="h2">{title}</Typography>
        <Button component={Link} to={`/journal${search && `?${search}`}`} aria-label={`${title}: see them in the journal`}>
          All
        </Button>
      </Stack>
      <Box component="ul" aria-label={title} sx={{ m: 0, p: 0, listStyle: 'none' }}>
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
      {journal.data?.length === 0 && <Typography color="text.secondary">{empty}</Typography>}
    </Sheet>
  );
}
