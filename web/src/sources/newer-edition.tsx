import { Box, Button, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import type { NewerDataset } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { tellDone } from '../journal/tell-done.js';
import { bytes, many, number } from '../parts/format.js';
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

export function Compared({ dataset: { name, before, now, fields, usedBy, isSame } }: { dataset: NewerDataset }) {
  if (now === null)
    return (
      <Typography variant="body2" sx={{ mt: 0.5 }}>
        <span className="mono">{name}</span>: nothing that came is its newer edition. It stays as it is.
      </Typography>
    );
  if (isSame)
    return (
      <Typography variant="body2" sx={{ mt: 0.5 }}>
        <span className="mono">{name}</span>: what came is the same, byte for byte.
      </Typography>
    );
  const facts = [
    before.records !== null && now.records !== null
      ? before.records === now.records
        ? `${number(now.records)} records as before`
        : `${number(before.records)} records, now ${number(now.records)}`
      : null,
    before.bytes !== null && now.bytes !== null ? `${bytes(before.bytes)}, now ${bytes(now.bytes)}` : null,
    before.bbox && now.bbox ? (sameBox(before.bbox, now.bbox) ? 'the same extent' : 'another extent') : null,
    before.crs === now.crs ? null : `${before.crs ?? 'no CRS'}, now ${now.crs ?? 'no CRS'}`,
    fields.added.length > 0 ? `fields that came: ${fields.added.join(', ')}` : null,
    fields.gone.length > 0 ? `fields that went: ${fields.gone.join(', ')}` : null,
    fields.changed.length > 0 ? `fields of another type: ${fields.changed.join(', ')}` : null,
  ].filter((f) => f !== null);
  return (
    <Typography variant="body2" sx={{ mt: 0.5 }}>
      <span className="mono">{name}</span>: {facts.join('; ')}.{' '}
      {usedBy === 0 ? 'No layer uses it.' : `${many(usedBy, 'layer')} will draw the new one.`}
    </Typography>
  );
}

const sameBox = (a: readonly number[], b: readonly number[]): boolean =>
  a.every((v, i) => Math.abs(v - b[i]!) <= 1e-9 * Math.max(1, Math.abs(v)));
