import { Box, Button, Tooltip } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { PlaceView, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, usePlaces, useProjects } from '../api/queries.js';
import { copyText } from '../parts/copy-text.js';
import { bytes, clock, dateTime, many, shortPath } from '../parts/format.js';

const plain = { fontSize: 12.5, color: 'var(--ink)', minWidth: 0, px: 0.75, py: 0, fontWeight: 400 } as const;

const WATCHED = { watched: 'watching', polled: 'looking every 30 s', 'not yet': 'not watching yet' } as const;

/** The root, how much there is, when it was looked at, and which places are here. */
export function GroundLine({ project }: { project: ProjectView | null }) {
  const places = usePlaces();
  const watched = useProjects().data?.find((p) => p.key === project?.key)?.watched;
  const client = useQueryClient();
  const rescan = useMutation({
    mutationFn: () => api.rescan(project!.key),
    onSuccess: (view) => client.setQueryData(keys.project(view.key), view),
  });
  return (
    <Box
      component="footer"
      role="contentinfo"
      sx={{
        flex: 'none',
        height: { md: 30 },
        minHeight: 30,
        flexWrap: { xs: 'wrap', md: 'nowrap' },
        px: 1.25,
        bgcolor: 'var(--sunk)',
        borderTop: '1px solid var(--rule)',
        display: 'flex',
        alignItems: 'center',
        columnGap: 1.5,
        fontSize: 12.5,
        whiteSpace: 'nowrap',
        overflowX: 'auto',
        overflowY: 'hidden',
        '& > *': { flexShrink: 0, maxWidth: '100%', overflow: { xs: 'hidden', md: 'visible' }, textOverflow: 'ellipsis' },
      }}
    >
      {project && (
        <>
          <Tooltip title={`Copy ${project.root}`}>
            <Button
              sx={{ ...plain, fontFamily: 'Iosevka, monospace' }}
              onClick={() => void copyText(project.root, 'The root’s path is on the clipboard.')}
            >
              {shortPath(project.shownRoot, 56)}
            </Button>
          </Tooltip>
          <Tooltip title={`${project.bytes} bytes in ${project.files} files`}>
            <span tabIndex={0}>
              {many(project.datasets.length, 'dataset')} · {bytes(project.bytes)}
            </span>
          </Tooltip>
          <span>
            looked at {clock(project.lookedMs)}, {WATCHED[watched ?? 'not yet']}
          </span>
          <Button sx={plain} onClick={() => rescan.mutate()} disabled={rescan.isPending}>
            Rescan
          </Button>
        </>
      )}
      <Box sx={{ flex: 1 }} />
      {places.data?.map((p) => (
        <Place key={p.name} place={p} />
      ))}
    </Box>
  );
}

function Place({ place }: { place: PlaceView }) {
  const name = [place.name, place.driveNames[0]].filter(Boolean).join(' ');
  const words = place.present
    ? name
    : `${name} absent${place.absentSince ? ` since ${dateTime(Date.parse(place.absentSince)).slice(11)}` : ''}`;
  return (
    <Tooltip title={place.folder}>
      <Box
        component="span"
        tabIndex={0}
        sx={{ display: 'inline-flex', alignItems: 'center', gap: 0.5, color: place.present ? 'var(--ink)' : 'var(--stone)' }}
      >
        <Box
          component="span"
          aria-hidden
          sx={{
            width: 9,
            height: 9,
            borderRadius: '50%',
            boxSizing: 'border-box',
            border: '1.5px solid currentColor',
            bgcolor: place.present ? 'currentColor' : 'transparent',
          }}
        />
        {words}
      </Box>
    </Tooltip>
  );
}
