import { Box, Button, LinearProgress, Stack, Table, TableBody, TableCell, TableHead, TableRow, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { DroppedMapRequest, PathRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { DropZone } from '../parts/drop-zone.js';
import { many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Sheet, Tag } from '../parts/states.js';

const FolderChooser = lazy(() => import('../parts/folder-chooser.js').then((m) => ({ default: m.FolderChooser })));
const isMapFile = (name: string): boolean => /[^/]\.owc\.json$/i.test(name);
const addressOf = (at: PathRequest): string => `/mend/map?place=${encodeURIComponent(at.place)}&path=${encodeURIComponent(at.path)}`;

/** Maps by themselves: dropped on the page, chosen in a place, or found in no project. */
export function LoneMaps() {
  return (
    <Box component="section" aria-label="Maps by themselves" sx={{ mt: 3 }}>
      <Typography variant="h2" sx={{ mb: 1 }}>
        Maps by themselves
      </Typography>
      <Drop />
      <Stray />
    </Box>
  );
}

/** A file that is dropped brings its text only: where it lies is looked for, and asked where that is not known. */
function Drop() {
  const navigate = useNavigate();
  const [choosing, setChoosing] = useState(false);
  const [homeless, setHomeless] = useState<DroppedMapRequest | null>(null);
  const [found, setFound] = useState<readonly PathRequest[]>([]);
  const find = useMutation({
    mutationFn: async (file: File) => {
      const dropped = { name: file.name, text: await file.text() };
      return { dropped, at: await api.findMap(dropped) };
    },
    onSuccess: ({ dropped, at }) => {
      setFound(at);
      if (at.length === 0) setHomeless(dropped);
      if (at.length === 1) void navigate(addressOf(at[0]!));
    },
  });
  const keep = useMutation({
    mutationFn: (folder: PathRequest) => api.keepMap({ ...homeless!, folder }),
    onSuccess: ({ at }) => void navigate(addressOf(at)),
  });
  return (
    <>
      <DropZone
        title="Drop a map file here"
        status={find.isPending ? 'Looking for where it lies…' : 'It is mended where it lies, in a project or in none.'}
        inputLabel="Map file to mend"
        isSingle
        onFiles={([file]) => {
          setHomeless(null);
          setFound([]);
          if (file) find.mutate(file);
        }}
      >
        <Button variant="outlined" onClick={() => setChoosing(true)}>
          Choose a map in a place
        </Button>
      </DropZone>
      {find.isError && <ErrorState error={find.error} />}
      {found.length > 1 && (
        <Sheet sx={{ p: 1.5, mb: 1.5 }}>
          <Typography>{many(found.length, 'equal file')} of this name are in the places. Which one is meant?</Typography>
          {found.map((at) => (
            <Box key={`${at.place}:${at.path}`}>
              <Link to={addressOf(at)}>
                <PathText path={`${at.place}: ${at.path}`} most={96} />
              </Link>
            </Box>
          ))}
        </Sheet>
      )}
      {homeless && (
        <Sheet sx={{ p: 1.5, mb: 1.5 }}>
          <Typography sx={{ mb: 1 }}>
            {homeless.name} lies in none of the places, or its text is another one there. Its relative addresses need a folder to start at:
            put it where its data is near.
          </Typography>
          <Button variant="contained" disabled={keep.isPending} onClick={() => setChoosing(true)}>
            Choose its folder
          </Button>
          {keep.isError && <ErrorState error={keep.error} />}
        </Sheet>
      )}
      <Suspense>
        {choosing && (
          <FolderChooser
            open
            title={homeless ? `Where does ${homeless.name} belong?` : 'Which map?'}
            {...(homeless ? { useFolderLabel: 'Put it into this folder' } : { acceptsFile: isMapFile })}
            onClose={() => setChoosing(false)}
            onChoose={(at) => {
              setChoosing(false);
              if (homeless) keep.mutate(at);
              else void navigate(addressOf(at));
            }}
          />
        )}
      </Suspense>
    </>
  );
}

const MOST_ROWS = 200;
const STRAY = ['stray-maps'] as const;

function Stray() {
  const client = useQueryClient();
  const [isAsked, setAsked] = useState(false);
  const stray = useQuery({ queryKey: STRAY, queryFn: ({ signal }) => api.strayMaps(signal), enabled: isAsked });
  const stop = (): void => {
    setAsked(false);
    void client.cancelQueries({ queryKey: STRAY });
  };
  if (!stray.data)
    return stray.isFetching ? (
      <Stack direction="row" spacing={2} sx={{ alignItems: 'center' }}>
        <LinearProgress aria-label="Looking through the places" sx={{ flex: 1, height: 2 }} />
        <Button onClick={stop}>Stop looking</Button>
      </Stack>
    ) : (
      <>
        {stray.isError && <ErrorState error={stray.error} />}
        <Button variant="outlined" onClick={() => (isAsked ? void stray.refetch() : setAsked(true))}>
          Look for maps that are in no project
        </Button>
      </>
    );
  const { isStopped } = stray.data;
  const maps = [...stray.data.maps].sort((a, b) => b.broken - a.broken);
  if (maps.length === 0) return <Typography color="text.secondary">Every map in the places belongs to a project.</Typography>;
  return (
    <Sheet>
      <Table size="small" aria-label="Maps in no project">
        <TableHead>
          <TableRow>
            <TableCell>Map in no project</TableCell>
            <TableCell>Where it lies</TableCell>
            <TableCell>What is wrong</TableCell>
            <TableCell>Proof</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {maps.slice(0, MOST_ROWS).map((m) => (
            <TableRow key={`${m.at.place}:${m.at.path}`}>
              <TableCell sx={{ fontWeight: 650 }}>{m.title}</TableCell>
              <TableCell>
                <PathText path={`${m.at.place}: ${m.at.path}`} most={72} />
              </TableCell>
              <TableCell>
                {m.damaged ?? (m.broken === 0 ? 'nothing to mend' : <Tag tone="plum">{`${m.broken} of ${many(m.layers, 'layer')}`}</Tag>)}
              </TableCell>
              <TableCell>
                {m.broken > 0 && (
                  <Button component={Link} to={addressOf(m.at)} aria-label={`Look at the proof in ${m.title}`}>
                    Look at it
                  </Button>
                )}
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
      {maps.length > MOST_ROWS && (
        <Typography variant="body2" color="text.secondary" sx={{ p: 1 }}>
          and {many(maps.length - MOST_ROWS, 'further map')}
        </Typography>
      )}
      {isStopped && (
        <Typography variant="body2" color="text.secondary" sx={{ p: 1 }}>
          The places hold more folders than are looked through unasked. Choose the map in its place instead.
        </Typography>
      )}
    </Sheet>
  );
}
