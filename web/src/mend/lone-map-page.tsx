import { Box, Button, Stack, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { LoneMapView, PathRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { EmptyState, ErrorState, Waiting } from '../parts/states.js';
import { MendView } from './mend-view.js';
import { MendSubjectContext, type MendSubject } from './subject.js';
import { keys } from '../api/queries.js';

/** One map by itself; the address bar names it by its place and path. */
export function LoneMapPage() {
  const [search] = useSearchParams();
  const at: PathRequest = { place: search.get('place') ?? '', path: search.get('path') ?? '' };
  const map = useQuery({ queryKey: keys.loneMap(at), queryFn: () => api.openMap(at), retry: false });
  if (map.isError) return <ErrorState error={map.error} onRetry={() => void map.refetch()} />;
  return map.data ? <LoneMap map={map.data} /> : <Waiting what="Reading the map…" />;
}

function LoneMap({ map: { key, title, layers, at } }: { map: LoneMapView }) {
  const subject = useMemo(
    (): MendSubject => ({ key, title, layers, stops: null, start: { place: at.place, path: at.path.replace(/\/?[^/]*$/, '') } }),
    [key, title, layers, at.place, at.path],
  );
  return (
    <MendSubjectContext value={subject}>
      <Box sx={{ display: 'flex', flexDirection: 'column', height: '100%' }}>
        <Stack direction="row" spacing={2} sx={{ px: 1.5, pt: 1.5, alignItems: 'baseline' }}>
          <Typography variant="h1">{title}</Typography>
          <PathText path={`${at.place}: ${at.path}`} most={72} />
          <Typography variant="body2" color="text.secondary">
            {many(layers, 'layer')}
          </Typography>
        </Stack>
        <Box sx={{ flex: 1, minHeight: 0 }}>
          <MendView
            whenSound={
              <EmptyState
                title="Every layer of this map is in order"
                action={
                  <Button component={Link} to="/mend" variant="contained">
                    Mend another map
                  </Button>
                }
              >
                Nothing is to be mended in {title}.
              </EmptyState>
            }
          />
        </Box>
      </Box>
    </MendSubjectContext>
  );
}
