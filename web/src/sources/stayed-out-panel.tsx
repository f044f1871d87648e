import { Box, Button, Stack, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import type { PutBackRow } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { JobRow } from '../frame/running-work.js';
import { useStartedJob } from '../parts/job-actions.js';
import { many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Sheet, Tag } from '../parts/states.js';

const STATES: Readonly<
  Record<PutBackRow['state'], { readonly word: string; readonly tone: 'spruce' | 'ochre' | 'plum' | 'slate'; readonly told: string }>
> = {
  'as-it-was': {
    word: 'as it was',
    tone: 'spruce',
    told: 'Its checksums are those of what stayed out. It stands where its layers look for it.',
  },
  'not-told': { word: 'put there', tone: 'slate', told: 'Nobody wrote down its checksums, so nothing tells whether it is the same.' },
  other: { word: 'another edition', tone: 'ochre', told: 'It was put there, and is not what stayed out.' },
  left: { word: 'another edition', tone: 'ochre', told: 'It is not what stayed out, so it was not put there.' },
  'not-in-it': { word: 'not in it', tone: 'plum', told: 'What stands at the address has no dataset of that name.' },
  failed: { word: 'did not come', tone: 'plum', told: '' },
};

const MOST_SHOWN = 8;

/** Data that stayed out of a bundle, since its publisher offers it: fetched from there, and held against its checksums. */
export function StayedOutPanel({ projectKey }: { projectKey: string }) {
  const missing = useQuery({ queryKey: keys.of(projectKey, 'stayed-out'), queryFn: () => api.stayedOut(projectKey) });
  const fetch = useMutation({
    mutationFn: (body: { addresses: readonly string[]; takesOther: boolean }) => api.putBack(projectKey, body),
  });
  const { job, isRunning, result } = useStartedJob(fetch.data);
  const list = missing.data ?? [];
  const others = result?.rows.filter((r) => r.state === 'left') ?? [];
  if (list.length === 0 && !job) return null;
  return (
    <Sheet sx={{ p: 1.5, mt: 1.5, borderLeft: '4px solid var(--ochre)' }}>
      <Box component="section" aria-label="What stayed out">
        {list.length > 0 && (
          <>
            <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5 }}>
              <Typography variant="h3" component="h2" sx={{ flex: 1 }}>
                {many(list.length, 'dataset')} not here: {list.length === 1 ? 'its publisher offers it' : 'their publishers offer them'}
              </Typography>
              <Button
                variant="outlined"
                disabled={isRunning || fetch.isPending}
                onClick={() => fetch.mutate({ addresses: [], takesOther: false })}
              >
                {list.length === 1 ? 'Fetch it' : 'Fetch them'}
              </Button>
            </Stack>
            {list.slice(0, MOST_SHOWN).map((s) => (
              <Box key={s.path} sx={{ mt: 0.75 }}>
                <PathText path={s.path} most={60} />
                <Typography variant="body2" color="text.secondary" sx={{ overflowWrap: 'anywhere' }}>
                  {s.address}
                  {s.isTold ? '' : ' · nobody wrote down its checksums'}
                </Typography>
              </Box>
            ))}
            {list.length > MOST_SHOWN && <Typography variant="body2">and {list.length - MOST_SHOWN} more</Typography>}
          </>
        )}
        {fetch.isError && <ErrorState error={fetch.error} />}
        {job && <JobRow job={job} />}
        {result && (
          <Box role="status" sx={{ mt: 1 }}>
            {result.rows.map((r) => (
              <Came key={r.path} row={r} />
            ))}
          </Box>
        )}
        {others.length > 0 && (
          <Button
            disabled={isRunning || fetch.isPending}
            onClick={() => fetch.mutate({ addresses: [...new Set(others.map((r) => r.address))], takesOther: true })}
          >
            Put the other {others.length === 1 ? 'edition' : 'editions'} there all the same
          </Button>
        )}
      </Box>
    </Sheet>
  );
}

function Came({ row }: { row: PutBackRow }) {
  const { word, tone, told } = STATES[row.state];
  const isThere = row.state === 'as-it-was' || row.state === 'other' || row.state === 'not-told';
  return (
    <Box sx={{ mt: 0.75 }}>
      <PathText path={row.path} most={60} /> <Tag tone={tone}>{word}</Tag>
      <Typography variant="body2">
        {row.why ?? told}
        {isThere && row.missing.length > 0 ? ` What stood beside it did not come: ${row.missing.join(', ')}.` : ''}
      </Typography>
    </Box>
  );
}
