import { mdiMapOutline } from '@mdi/js';
import { Box } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { MapView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { Icon } from '../parts/icon.js';
import { lastFirst } from './last-first.js';

/** Few at once, so that the connections stay free for what a person does. */
const drawing = lastFirst(2);

/** A small picture of a map as it was saved last; layers whose data is gone are drawn as the map remembers them. */
export function MapPicture({ projectKey, map, height }: { projectKey: string; map: MapView; height: number }) {
  const state = `${map.bytes}-${map.layers.map((l) => l.state.slice(0, 2)).join('')}`.slice(0, 80);
  const { data, isPending } = useQuery({
    queryKey: keys.of(projectKey, 'map-picture', map.relativePath, state),
    queryFn: () => drawing(() => api.mapPicture(projectKey, map.relativePath, state)),
    staleTime: Infinity,
    retry: false,
  });
  return (
    <Box
      data-map-picture={data ? 'drawn' : isPending ? 'coming' : 'none'}
      sx={{
        height,
        bgcolor: data ? 'var(--map-ground)' : 'var(--slate-wash)',
        display: 'flex',
        alignItems: 'center',
        justifyContent: 'center',
        overflow: 'hidden',
      }}
    >
      {data ? (
        <img src={data} alt="" style={{ width: '100%', height: '100%', objectFit: 'cover' }} />
      ) : (
        <Icon path={mdiMapOutline} aria-hidden sx={{ fontSize: 26, color: 'var(--slate)', opacity: isPending ? 0.2 : 0.55 }} />
      )}
    </Box>
  );
}
