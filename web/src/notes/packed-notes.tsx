import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { groupBy, noteKindOf, statedCrsChecks, withoutPassage, withPassage, type Origin } from '@rootmap/core';
import type { IntakeView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { bytes, many } from '../parts/format.js';
import { NoteDialog, PassageRow } from './note-dialog.js';

interface Props {
  readonly projectKey: string;
  readonly arrival: IntakeView;
  readonly origin: Origin;
  readonly onOrigin: (origin: Origin) => void;
}

/** Notes are read at once up to this many, and up to this size; others when somebody opens them. */
const READ_AT_ONCE = 3;
const READ_BYTES = 2 << 20;
const MOST_NAMED = 4;

/** Notes of what arrived, read before anything is unpacked: what they tell, to be taken over. */
export function PackedNotes({ projectKey, arrival, origin, onOrigin }: Props) {
  const notes = arrival.groups.filter((g) => g.format === 'document' && noteKindOf(g.path) !== null);
  const [open, setOpen] = useState<string | null>(null);
  const differing = groupBy(
    arrival.groups.flatMap((g) =>
      g.isDescribed && g.format !== 'document'
        ? statedCrsChecks(origin, g).flatMap((c) =>
            c.result === 'pass' ? [] : [{ path: g.path.slice(arrival.wrapper.length), detail: c.detail }],
          )
        : [],
    ),
    (d) => d.detail,
  );
  if (notes.length === 0) return null;
  const first = notes.filter((g) => g.bytes <= READ_BYTES).slice(0, READ_AT_ONCE);
  const all = { projectKey, arrival: arrival.id, origin, onOrigin };
  return (
    <Box component="section" aria-label="Notes in it" sx={{ mt: 1.5 }}>
      <Typography variant="h3">{many(notes.length, 'note')} in it</Typography>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5, my: 0.5 }}>
        {notes.map((g) => (
          <Button key={g.path} size="small" variant="outlined" sx={{ textTransform: 'none' }} onClick={() => setOpen(g.path)}>
            Read {g.path.slice(arrival.wrapper.length)} ({bytes(g.bytes)})
          </Button>
        ))}
      </Box>
      {first.map((g) => (
        <LikelyIn key={g.path} {...all} path={g.path} onShow={() => setOpen(g.path)} />
      ))}
      {[...differing].map(([detail, all]) => (
        <Box
          key={detail}
          sx={{ borderLeft: '3px solid var(--ochre)', bgcolor: 'var(--ochre-wash)', px: 1.25, py: 0.5, mt: 0.75, fontSize: 13 }}
        >
          <span className="mono">
            {all
              .slice(0, MOST_NAMED)
              .map((d) => d.path)
              .join(', ')}
            {all.length > MOST_NAMED ? ` and ${all.length - MOST_NAMED} more` : ''}
          </span>
          : {detail}
        </Box>
      ))}
      {open !== null && <OpenPacked {...all} path={open} onClose={() => setOpen(null)} />}
    </Box>
  );
}

interface NoteProps extends Pick<Props, 'projectKey' | 'origin' | 'onOrigin'> {
  readonly arrival: string;
  readonly path: string;
}

const usePacked = (projectKey: string, arrival: string, path: string) =>
  useQuery({
    queryKey: [...keys.arrival(projectKey, arrival), path],
    queryFn: ({ signal }) => api.packedNote(projectKey, arrival, path, signal),
    retry: false,
    staleTime: Infinity, // what arrived stays as it is
  });

const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);

/** What a note looks to tell, and what of it is taken over. */
function LikelyIn({ projectKey, arrival, path, origin, onOrigin, onShow }: NoteProps & { onShow: () => void }) {
  const view = usePacked(projectKey, arrival, path);
  const taken = (origin.passages ?? []).filter((p) => p.note === path);
  const open = (view.data?.likely ?? []).filter((l) => !taken.some((t) => t.about === l.about && t.at === l.at));
  if (view.isError) return <Typography variant="body2">{view.error.message}</Typography>;
  if (!view.data) return null;
  return (
    <>
      <Typography variant="body2" color="text.secondary">
        {open.length > 0
          ? `What ${nameOf(path)} looks to tell, found by its words: a guess, until you take it over.`
          : taken.length === 0 && `${nameOf(path)}: nothing of units, CRS, scale, date, limits or licence was found by its words.`}
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(300px, 1fr))', columnGap: 2 }}>
        {taken.map((p) => (
          <PassageRow key={`t${p.about}${p.at}`} passage={p} isTaken onAct={() => onOrigin(withoutPassage(origin, p))} onShow={onShow} />
        ))}
        {open.map((p) => (
          <PassageRow
            key={`${p.about}${p.at}`}
            passage={p}
            onAct={() => onOrigin(withPassage(origin, { ...p, note: path }))}
            onShow={onShow}
          />
        ))}
      </Box>
    </>
  );
}

function OpenPacked({ projectKey, arrival, path, origin, onOrigin, onClose }: NoteProps & { onClose: () => void }) {
  const view = usePacked(projectKey, arrival, path);
  return (
    <NoteDialog
      name={path}
      view={view}
      taking={{
        taken: (origin.passages ?? []).filter((p) => p.note === path),
        onTake: (passage) => onOrigin(withPassage(origin, { ...passage, note: path })),
        onTakeBack: (passage) => onOrigin(withoutPassage(origin, passage)),
      }}
      onClose={onClose}
    />
  );
}
