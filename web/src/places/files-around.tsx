import { Box, Button, Stack, Typography } from '@mui/material';
import { useQueries } from '@tanstack/react-query';
import type { PathRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, usePlaces } from '../api/queries.js';
import { bytes } from '../parts/format.js';
import { Sheet } from '../parts/states.js';

interface Props {
  readonly title: string;
  readonly accepts: (name: string) => boolean;
  readonly button: string;
  readonly onChoose: (at: PathRequest) => void;
  readonly empty: string;
}

/** Folders into which browsers and colleagues put what arrives (common practice, no source). */
const ARRIVING = /^(downloads?|incoming|inbox|arrivals|received|exchange)$/i;
const MOST_SHOWN = 8;

const useFoldersOf = (all: readonly PathRequest[]) =>
  useQueries({
    queries: all.map((at) => ({ queryKey: keys.folder(at), queryFn: () => api.folder(at), staleTime: 10_000, retry: false })),
    combine: (results) => results.flatMap((r) => (r.data ? [r.data] : [])),
  });

/** Files that lie where things arrive: at the top of places, and in folders with such a name. */
export function FilesAround({ title, accepts, button, onChoose, empty }: Props) {
  const places = usePlaces();
  const tops = useFoldersOf((places.data ?? []).filter((p) => p.present).map((p) => ({ place: p.name, path: '' })));
  const inner = useFoldersOf(
    tops.flatMap(({ place, folders }) => folders.filter((f) => ARRIVING.test(f.name)).map((f) => ({ place, path: f.name }))),
  );
  const found = [...tops, ...inner].flatMap(
    ({ place, path, files }) =>
    files.filter((f) => accepts(f.name)).map((f) => ({ name: f.name, bytes: f.bytes, place, folder: path, path: path === '' ? f.name : `${path}/${f.name}` })), // prettier-ignore
  );
  return (
    <Sheet sx={{ p: 2 }}>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        {title}
      </Typography>
      <Box component="ul" aria-label={title} sx={{ m: 0, p: 0, listStyle: 'none' }}>
        {found.slice(0, MOST_SHOWN).map((f) => (
          <Stack
            component="li"
            key={`${f.place}:${f.path}`}
            direction="row"
            spacing={1.5}
            sx={{ py: 0.25, borderTop: '1px solid var(--rule)', alignItems: 'center' }}
          >
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <Box component="span" className="mono" sx={{ overflowWrap: 'anywhere' }}>
                {f.name}
              </Box>
              <Typography component="span" variant="body2" color="text.secondary" sx={{ ml: 1 }}>
                {bytes(f.bytes)}, {f.folder === '' ? `at the top of ${f.place}` : `in ${f.folder} on ${f.place}`}
              </Typography>
            </Box>
            <Button onClick={() => onChoose({ place: f.place, path: f.path })} aria-label={`${button}: ${f.name}`}>
              {button}
            </Button>
          </Stack>
        ))}
      </Box>
      {found.length > MOST_SHOWN && <Typography variant="body2">… and {found.length - MOST_SHOWN} more</Typography>}
      {found.length === 0 && <Typography color="text.secondary">{empty}</Typography>}
    </Sheet>
  );
}
