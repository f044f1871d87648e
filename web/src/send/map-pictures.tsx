import { Box, Button, Checkbox, FormControlLabel, Typography } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { lazy, Suspense, useCallback, useState } from 'react';
import type { PackPreview } from '@rootmap/core/contract';
import { useOpenProject } from '../frame/use-project.js';
import { dateTime, many } from '../parts/format.js';
import type { Sending } from './use-send.js';

const DrawMapPage = lazy(() => import('./draw-map-page.js').then((m) => ({ default: m.DrawMapPage })));

/** Servers are not carried: a picture of each map that draws on them can go along instead. */
export function MapPictures({ sending: { send, set, isOld }, preview }: { sending: Sending; preview: PackPreview }) {
  const project = useOpenProject();
  const client = useQueryClient();
  const [failed, setFailed] = useState<ReadonlyMap<string, string>>(new Map());
  /** Drawn again on purpose, one after the other. */
  const [again, setAgain] = useState<readonly string[]>([]);
  const { leavesPictures } = send;
  const pages = leavesPictures ? preview.pages : [];
  const next = isOld ? undefined : (again[0] ?? pages.find((p) => p.drawn === null && !failed.has(p.map))?.map);
  const done = useCallback(
    async (problem: string | null): Promise<void> => {
      if (problem !== null && next !== undefined) setFailed((before) => new Map(before).set(next, problem));
      await client.invalidateQueries({ queryKey: ['project', project.key, 'bundle'] });
      setAgain((before) => before.filter((m) => m !== next));
    },
    [client, next, project.key],
  );
  if (preview.services.length === 0 || send.layer !== null) return null;
  return (
    <Box>
      <FormControlLabel
        control={<Checkbox size="small" checked={leavesPictures} onChange={(e) => set({ leavesPictures: e.target.checked })} />}
        label="Leave a picture of each map that draws on servers"
      />
      <Typography variant="body2" color="text.secondary">
        {preview.services.length === 1
          ? '1 layer draws on a server, which is'
          : `${many(preview.services.length, 'layer')} draw on servers, which are`}{' '}
        not carried.
      </Typography>
      {pages.map((p) => (
        <Typography key={p.map} variant="body2" role="status" sx={{ mt: 0.5 }}>
          <b>{p.title}</b>:{' '}
          {p.map === next
            ? 'being drawn…'
            : (failed.get(p.map) ??
              (p.drawn === null
                ? 'not drawn yet'
                : `drawn ${dateTime(p.drawn.ms)}${p.drawn.without.length > 0 ? `; not or not wholly on it: ${p.drawn.without.join(', ')}` : ''}`))}
        </Typography>
      ))}
      {pages.length > 0 && next === undefined && (
        <Button
          size="small"
          onClick={() => {
            setFailed(new Map());
            setAgain(pages.map((p) => p.map));
          }}
        >
          Draw {pages.length === 1 ? 'it' : 'them'} anew
        </Button>
      )}
      <Suspense>
        {next !== undefined && <DrawMapPage key={next} project={project} path={next} onDone={(problem) => void done(problem)} />}
      </Suspense>
    </Box>
  );
}
