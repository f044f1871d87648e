import { Box, Button, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { tellDone } from '../journal/tell-done.js';
import { many } from '../parts/format.js';
import { Compared } from './compared-dataset.js';
import { ErrorState, Waiting } from '../parts/states.js';

interface Props {
  readonly projectKey: string;
  readonly arrival: string;
  readonly address: string;
  readonly onTaken: () => void;
}

/** What was fetched again, against what came from there before; it can take its place, with every reference. */
export function NewerEdition({ projectKey, arrival, address, onTaken }: Props) {
  const found = useQuery({
    queryKey: keys.of(projectKey, 'newer', arrival, address),
    queryFn: () => api.compareNewer(projectKey, { arrival, address }),
    retry: false,
    gcTime: 0,
  });
  const take = useMutation({
    mutationFn: () => api.takeOverNewer(projectKey, { arrival, address }),
    onSuccess: ({ change }) => {
      tellDone('The new edition stands where the old one stood.', change);
      onTaken();
    },
  });
  if (found.isError) return <ErrorState error={found.error} />;
  if (!found.data) return <Waiting what="Comparing it with what is here…" />;
  const newer = found.data.filter((d) => d.now !== null && !d.isSame);
  return (
    <Box component="section" aria-label="Against what is here" sx={{ bgcolor: 'var(--ochre-wash)', p: 1.5, borderRadius: 1, mb: 1.5 }}>
      <Typography variant="h3">This address was fetched before</Typography>
      {found.data.map((d) => (
        <Compared key={d.id} dataset={d} />
      ))}
      {take.isError && <ErrorState error={take.error} />}
      {newer.length > 0 && (
        <Button variant="contained" sx={{ mt: 1 }} disabled={take.isPending} onClick={() => take.mutate()}>
          Let it take the place of {newer.length === 1 ? newer[0]!.name : many(newer.length, 'dataset')}
        </Button>
      )}
    </Box>
  );
}
