import { Box, Button, Checkbox, FormControlLabel } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { PASSAGE_WORD, type Origin, type StatedPassage } from '@rootmap/core';
import type { NotesView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, useSources } from '../api/queries.js';
import { tellDone } from '../journal/tell-done.js';
import { bytes, many } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import { NoteDialog } from './note-dialog.js';

const SHOWN = 5;

/** The notes that lie beside a dataset, each to be read. */
export function DatasetNotes({ projectKey, dataset }: { projectKey: string; dataset: string }) {
  const notes = useQuery({ queryKey: keys.of(projectKey, 'notes', dataset), queryFn: () => api.notes(projectKey, dataset) });
  const [open, setOpen] = useState<string | null>(null);
  const [isAll, setAll] = useState(false);
  if (notes.isError) return <ErrorState error={notes.error} />;
  if (!notes.data) return <>…</>;
  const list = notes.data.notes;
  if (list.length === 0) return <span style={{ color: 'var(--soft)' }}>none lie beside it</span>;
  return (
    <>
      {list.slice(0, isAll ? list.length : SHOWN).map((n) => (
        <Box key={n.path} sx={{ overflowWrap: 'anywhere' }}>
          <Button size="small" sx={{ textTransform: 'none', textAlign: 'left', px: 0.5 }} onClick={() => setOpen(n.path)}>
            {n.path}
          </Button>{' '}
          <span style={{ color: 'var(--soft)' }}>{bytes(n.bytes)}</span>
        </Box>
      ))}
      {list.length > SHOWN && !isAll && (
        <Button size="small" onClick={() => setAll(true)}>
          {many(list.length - SHOWN, 'more note')}
        </Button>
      )}
      {open !== null && <OpenNote projectKey={projectKey} dataset={dataset} note={open} notes={notes.data} onClose={() => setOpen(null)} />}
    </>
  );
}

interface OpenNoteProps {
  readonly projectKey: string;
  readonly dataset: string;
  readonly note: string;
  readonly notes: NotesView;
  readonly onClose: () => void;
}

function OpenNote({ projectKey, dataset, note, notes, onClose }: OpenNoteProps) {
  const client = useQueryClient();
  const view = useQuery({
    queryKey: keys.of(projectKey, 'note', dataset, note),
    queryFn: ({ signal }) => api.note(projectKey, dataset, note, signal),
    retry: false,
  });
  const sources = useSources(projectKey);
  const origin: Origin | null = sources.data?.sources.find((s) => s.id === dataset)?.origin ?? null;
  const [isForAll, setForAll] = useState(false);
  const take = useMutation({
    mutationFn: ({ passage, isTaken }: { passage: StatedPassage; isTaken: boolean }) =>
      api.takePassage(projectKey, { datasets: isForAll ? [dataset, ...notes.siblings] : [dataset], passage, isTaken }),
    onSuccess: async ({ change }, { passage, isTaken }) => {
      const word = PASSAGE_WORD[passage.about];
      tellDone(isTaken ? `${word}: stated by the publisher, with its place in ${note}.` : `${word}: no longer stated.`, change);
      await client.invalidateQueries({ queryKey: keys.sources(projectKey) });
    },
  });
  return (
    <NoteDialog
      name={note}
      view={view}
      taking={{
        taken: (origin?.passages ?? []).filter((p) => p.note === note),
        isBusy: take.isPending,
        onTake: (passage) => take.mutate({ passage: { ...passage, note }, isTaken: true }),
        onTakeBack: (passage) => take.mutate({ passage, isTaken: false }),
      }}
      onClose={onClose}
    >
      {notes.siblings.length > 0 && (
        <FormControlLabel
          control={<Checkbox checked={isForAll} onChange={(e) => setForAll(e.target.checked)} />}
          label={`It holds for the ${many(notes.siblings.length, 'other dataset')} of this folder, too`}
        />
      )}
      {take.isError && <ErrorState error={take.error} />}
    </NoteDialog>
  );
}
