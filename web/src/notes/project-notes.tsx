import { Autocomplete, Box, Button, Stack, TextField, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import { Link } from 'react-router';
import type { NoteTarget, ProjectNote } from '@rootmap/core';
import type { ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { useApplyEdit } from '../folders/use-edit.js';
import { ErrorState, sentenceOf, Sheet } from '../parts/states.js';

const FIRST = 3;

interface Props {
  readonly projectKey: string;
  /** What a note can be about. */
  readonly things?: readonly NoteTarget[];
}

/** Dated notes on the project, the latest first, kept in one file in its folder. */
export function ProjectNotes({ projectKey, things = [] }: Props) {
  const { data, error } = useQuery({ queryKey: keys.of(projectKey, 'project-notes'), queryFn: () => api.projectNotes(projectKey) });
  const [isAll, setAll] = useState(false);
  const [isWriting, setWriting] = useState(false);
  const latest = [...(data ?? [])].reverse();
  const shown = isAll ? latest : latest.slice(0, FIRST);
  return (
    <Sheet sx={{ p: 2 }}>
      <Stack direction="row" sx={{ justifyContent: 'space-between', alignItems: 'baseline' }}>
        <Typography variant="h2">Notes on the project</Typography>
        {!isWriting && (
          <Button size="small" onClick={() => setWriting(true)}>
            Write one
          </Button>
        )}
      </Stack>
      {isWriting && <NoteForm projectKey={projectKey} things={things} onDone={() => setWriting(false)} />}
      {error && <ErrorState error={error} />}
      {data?.length === 0 && !isWriting && (
        <Typography variant="body2" color="text.secondary">
          What was asked, agreed or found out, with its day. They stand in project_notes.md in the folder of the project, and travel with
          it.
        </Typography>
      )}
      {shown.map((note, i) => (
        <Note key={`${note.at} ${i}`} note={note} projectKey={projectKey} />
      ))}
      {latest.length > shown.length && (
        <Button size="small" onClick={() => setAll(true)}>
          {latest.length - shown.length} older
        </Button>
      )}
    </Sheet>
  );
}

const Note = ({ note, projectKey }: { note: ProjectNote; projectKey: string }) => (
  <Box component="article" sx={{ borderTop: '1px solid var(--rule)', py: 0.75, fontSize: 13 }}>
    <Box sx={{ color: 'text.secondary', fontSize: 12 }}>
      {note.at}
      {note.who === '' ? '' : `, ${note.who}`}
    </Box>
    <Box sx={{ whiteSpace: 'pre-line', overflowWrap: 'anywhere' }}>{note.text}</Box>
    {note.about && (
      <Box sx={{ overflowWrap: 'anywhere' }}>
        <Link to={addressOf(note.about, projectKey)}>{wordsOf(note.about)}</Link>
      </Box>
    )}
  </Box>
);

const wordsOf = (about: NoteTarget): string => (about.kind === 'path' ? about.path : about.title || `change ${about.id}`);

function addressOf(about: NoteTarget, key: string): string {
  if (about.kind === 'change') return `/journal?text=${encodeURIComponent(about.title)}`;
  if (about.path.endsWith('.owc.json')) return `/p/${key}/maps/edit?map=${encodeURIComponent(about.path)}`;
  return `/p/${key}/folders?path=${encodeURIComponent(about.path)}`;
}

interface FormProps {
  readonly projectKey: string;
  readonly things: readonly NoteTarget[];
  readonly onDone: () => void;
}

function NoteForm({ projectKey, things, onDone }: FormProps) {
  const [text, setText] = useState('');
  const [about, setAbout] = useState<NoteTarget | null>(null);
  const apply = useApplyEdit(projectKey, onDone);
  const submit = (e: FormEvent): void => {
    e.preventDefault();
    if (text.trim() !== '') apply.mutate({ kind: 'note', text: text.trim(), about });
  };
  return (
    <Stack component="form" spacing={1} onSubmit={submit} sx={{ mt: 1 }}>
      <TextField autoFocus size="small" multiline minRows={2} label="Note" value={text} onChange={(e) => setText(e.target.value)} />
      <Autocomplete<NoteTarget>
        size="small"
        options={[...things]}
        value={about}
        onChange={(_, v) => setAbout(v)}
        getOptionLabel={wordsOf}
        getOptionKey={(t) => (t.kind === 'path' ? t.path : t.id)}
        isOptionEqualToValue={(a, b) => wordsOf(a) === wordsOf(b)}
        renderInput={(params) => <TextField {...params} label="About" placeholder="nothing of its own" />}
      />
      {apply.error && <Typography sx={{ color: 'var(--plum)', fontSize: 13 }}>{sentenceOf(apply.error)}</Typography>}
      <Stack direction="row" spacing={1}>
        <Button type="submit" size="small" variant="contained" disabled={text.trim() === '' || apply.isPending}>
          Keep the note
        </Button>
        <Button size="small" onClick={onDone}>
          Leave it
        </Button>
      </Stack>
    </Stack>
  );
}

/** What a note on a project can be about: its maps and the files of its datasets, from the root. */
export function thingsOf({ maps, datasets, root }: ProjectView): NoteTarget[] {
  const files = datasets.map((d) => d.id.replace(/#[^/]*$/, '')).filter((file) => file.startsWith(`${root}/`));
  const paths = new Set([...maps.map((m) => m.relativePath), ...files.map((file) => file.slice(root.length + 1))]);
  return [...paths].map((path) => ({ kind: 'path', path }));
}
