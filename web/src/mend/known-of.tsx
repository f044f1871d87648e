import { Button, Link as Anchor, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { DeletionView, MendLayerView, OriginShort } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { dateTime, day } from '../parts/format.js';
import { Section } from './section.js';
import { useSubject } from './subject.js';
import { keys } from '../api/queries.js';

/** What is known of data that is not found: who deleted it, where it came from, when it was seen last, who used it. */
export function KnownOf({ layer }: { layer: MendLayerView }) {
  const { key } = useSubject();
  const isGone = layer.before.state === 'adrift' && layer.resolved !== null;
  const deletion = useQuery({
    queryKey: keys.of(key, 'mend', 'deletion', layer.resolved),
    queryFn: () => api.deletionOf(key, layer.resolved!),
    enabled: isGone,
  });
  return <Known layer={layer} deletedBy={deletion.data?.change ?? null} />;
}

export function Known({ layer, deletedBy }: { layer: MendLayerView; deletedBy: DeletionView | null }) {
  const { origin, lastSeenMs, remembered } = layer;
  if (!origin && lastSeenMs === null && !deletedBy && !remembered?.modified) return null;
  return (
    <Section title="What is known of it">
      {deletedBy && (
        <Typography variant="body2">
          It was deleted on {day(new Date(deletedBy.ms).toISOString())} by “{deletedBy.title}”, and undoing that brings it back.{' '}
          <Button component={Link} to="/journal" size="small">
            Go to the journal
          </Button>
        </Typography>
      )}
      {lastSeenMs !== null && <Typography variant="body2">Seen there last on {dateTime(lastSeenMs)}.</Typography>}
      {remembered?.modified && <Typography variant="body2">Changed last on {day(remembered.modified)}.</Typography>}
      {origin && <OriginLines origin={origin} />}
    </Section>
  );
}

export const toldOrigin = (o: OriginShort): string =>
  [o.title, o.publisher, o.fetched && `fetched ${o.fetched}`, o.licence].filter(Boolean).join(' · ');

function OriginLines({ origin }: { origin: OriginShort }) {
  const again = [origin.address, origin.page].find((text) => /^(https?|ftp):\/\//i.test(text));
  return (
    <>
      <Typography variant="body2">Came from: {toldOrigin(origin)}</Typography>
      {again && (
        <Typography variant="body2" sx={{ overflowWrap: 'anywhere' }}>
          Fetch it again:{' '}
          <Anchor href={again} target="_blank" rel="noreferrer">
            {again}
          </Anchor>
        </Typography>
      )}
    </>
  );
}
