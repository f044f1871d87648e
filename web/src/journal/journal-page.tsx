import {
  Box,
  Button,
  Collapse,
  MenuItem,
  Stack,
  Table,
  TableBody,
  TableCell,
  TableHead,
  TableRow,
  TextField,
  Typography,
} from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { ChangedFileView, ChangeView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, useJournal, useProjects } from '../api/queries.js';
import { dateTime, many, number } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { EmptyState, ErrorState, Sheet, Tag, Waiting } from '../parts/states.js';
import { useUrlState } from '../parts/use-url-state.js';
import { ProjectNotes } from '../notes/project-notes.js';
import { JournalBeside } from './journal-beside.js';
import { JournalEmpty } from './journal-empty.js';
import { KINDS } from './kinds.js';
import { undoAndTell } from './undo-flow.js';

const STATE: Readonly<Record<ChangeView['state'], { word: string; tone: 'spruce' | 'ochre' | 'plum' | 'slate' }>> = {
  preparing: { word: 'preparing', tone: 'slate' },
  applying: { word: 'under way', tone: 'slate' },
  'taking-back': { word: 'being taken back', tone: 'slate' },
  done: { word: 'done', tone: 'spruce' },
  undone: { word: 'undone', tone: 'slate' },
  'taken-back': { word: 'taken back', tone: 'ochre' },
  failed: { word: 'failed, nothing changed', tone: 'plum' },
};

const WAITING = { word: 'waiting', tone: 'ochre' } as const;

/** Every change on disk, newest first, each with its undo. */
export function JournalPage() {
  const [search, set] = useUrlState();
  const only = Object.fromEntries(['project', 'kind', 'text'].flatMap((name) => (search.get(name) ? [[name, search.get(name)!]] : [])));
  const isFiltered = Object.keys(only).length > 0;
  const journal = useJournal(only);
  const undo = useMutation({ mutationFn: (id: string) => undoAndTell(id, true) });
  return (
    <Stack spacing={2} sx={{ p: { xs: 1.5, md: 3 }, overflow: 'auto' }}>
      <Stack direction="row" useFlexGap spacing={1.5} sx={{ alignItems: 'center', flexWrap: 'wrap' }}>
        <Typography variant="h1" sx={{ flex: 1 }}>
          Journal
        </Typography>
        <Filters only={only} onChange={set} />
      </Stack>
      {journal.isError ? (
        <ErrorState error={journal.error} onRetry={() => void journal.refetch()} />
      ) : !journal.data ? (
        <Waiting what="Reading the journal…" />
      ) : (
        <Box
          sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) 320px' }, gap: 2, alignItems: 'start' }}
        >
          {journal.data.length > 0 ? (
            <Changes changes={journal.data} busy={undo.isPending} onUndo={undo.mutate} />
          ) : isFiltered ? (
            <NoneLikeThat onAll={() => set({ project: null, kind: null, text: null })} />
          ) : (
            <JournalEmpty />
          )}
          <Stack spacing={2}>
            {only['project'] && (
              <ProjectNotes
                key={only['project']}
                projectKey={only['project']}
                things={journal.data.map(({ id, title }) => ({ kind: 'change', id, title }))}
              />
            )}
            <JournalBeside project={only['project']} kind={only['kind']} onKind={(kind) => set({ kind })} />
          </Stack>
        </Box>
      )}
    </Stack>
  );
}

const NoneLikeThat = ({ onAll }: { onAll: () => void }) => (
  <EmptyState
    title="No change like that"
    action={
      <Button variant="outlined" onClick={onAll}>
        Show all changes
      </Button>
    }
  >
    Nothing in the journal has all that is asked for: the project, the sort of change, and the text in its title or in a path.
  </EmptyState>
);

interface ChangesProps {
  readonly changes: readonly ChangeView[];
  readonly busy: boolean;
  readonly onUndo: (id: string) => void;
}

const Changes = ({ changes, busy, onUndo }: ChangesProps) => (
  <Sheet sx={{ overflowX: 'auto' }}>
    <Table size="small" sx={{ minWidth: 760 }}>
      <TableHead>
        <TableRow>
          <TableCell>When</TableCell>
          <TableCell>Change</TableCell>
          <TableCell>Files</TableCell>
          <TableCell>By</TableCell>
          <TableCell>State</TableCell>
          <TableCell />
        </TableRow>
      </TableHead>
      <TableBody>
        {changes.map((c) => (
          <ChangeRow key={c.id} change={c} busy={busy} onUndo={onUndo} />
        ))}
      </TableBody>
    </Table>
  </Sheet>
);

const TYPING_MS = 250;

function Filters({ only, onChange }: { only: Readonly<Record<string, string>>; onChange: ReturnType<typeof useUrlState>[1] }) {
  const projects = useProjects();
  const [text, setText] = useState(only['text'] ?? '');
  const [timer, setTimer] = useState<ReturnType<typeof setTimeout>>();
  return (
    <Stack direction="row" useFlexGap spacing={1} component="search" sx={{ flexWrap: 'wrap' }}>
      <TextField
        select
        size="small"
        value={only['project'] ?? ''}
        onChange={(e) => onChange({ project: e.target.value })}
        slotProps={{ htmlInput: { 'aria-label': 'Project' }, select: { displayEmpty: true } }}
        sx={{ minWidth: 150 }}
      >
        <MenuItem value="">All projects</MenuItem>
        {(projects.data ?? [])
          .filter((p) => p.present || p.key === only['project'])
          .map((p) => (
            <MenuItem key={p.key} value={p.key}>
              {p.title}
            </MenuItem>
          ))}
      </TextField>
      <TextField
        select
        size="small"
        value={only['kind'] ?? ''}
        onChange={(e) => onChange({ kind: e.target.value })}
        slotProps={{ htmlInput: { 'aria-label': 'Sort of change' }, select: { displayEmpty: true } }}
        sx={{ minWidth: 170 }}
      >
        <MenuItem value="">All sorts of change</MenuItem>
        {Object.entries(KINDS).map(([kind, word]) => (
          <MenuItem key={kind} value={kind}>
            {word}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        size="small"
        type="search"
        placeholder="Title or path"
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          clearTimeout(timer);
          setTimer(setTimeout(() => onChange({ text: e.target.value.trim() }), TYPING_MS));
        }}
        slotProps={{ htmlInput: { 'aria-label': 'Text in the title or a path', maxLength: 300 } }}
      />
    </Stack>
  );
}

function ChangeRow({ change: c, busy, onUndo }: { change: ChangeView; busy: boolean; onUndo: (id: string) => void }) {
  const [isOpen, setOpen] = useState(false);
  const state = c.isWaiting ? WAITING : STATE[c.state];
  return (
    <>
      <TableRow sx={isOpen ? { '& > td': { borderBottom: 0 } } : {}}>
        <TableCell sx={{ whiteSpace: 'nowrap', verticalAlign: 'top' }}>{dateTime(c.createdMs)}</TableCell>
        <TableCell sx={{ verticalAlign: 'top' }}>
          <Typography variant="body2" sx={{ fontWeight: 650 }}>
            {c.title}
          </Typography>
          {c.note && (
            <Typography variant="body2" color="text.secondary">
              {c.note}
            </Typography>
          )}
        </TableCell>
        <TableCell sx={{ verticalAlign: 'top' }}>
          {!isOpen && c.files[0] !== undefined && <PathText path={c.files[0]} most={52} />}
          <div>
            <Button
              size="small"
              aria-expanded={isOpen}
              onClick={() => setOpen(!isOpen)}
              sx={{ px: 0.5, ml: -0.5, minWidth: 0 }}
              disabled={c.fileCount === 0}
            >
              {isOpen ? 'Hide' : c.fileCount === 1 ? 'What was done' : `All ${number(c.fileCount)}`}
            </Button>
          </div>
        </TableCell>
        <TableCell sx={{ verticalAlign: 'top' }}>{c.who}</TableCell>
        <TableCell sx={{ verticalAlign: 'top' }}>
          <Tag tone={state.tone}>{state.word}</Tag>
        </TableCell>
        <TableCell align="right" sx={{ verticalAlign: 'top' }}>
          {c.canUndo && (
            <Button variant="outlined" disabled={busy} onClick={() => onUndo(c.id)} aria-label={`Undo: ${c.title}`}>
              Undo
            </Button>
          )}
          {c.redo !== null && (
            <Button variant="outlined" disabled={busy} onClick={() => onUndo(c.redo!)} aria-label={`Redo: ${c.title}`}>
              Redo
            </Button>
          )}
        </TableCell>
      </TableRow>
      {isOpen && (
        <TableRow>
          <TableCell colSpan={6} sx={{ pt: 0 }}>
            <Collapse in appear>
              <ChangedFiles id={c.id} title={c.title} />
            </Collapse>
          </TableCell>
        </TableRow>
      )}
    </>
  );
}

/** What was done to each file, in its order. */
function ChangedFiles({ id, title }: { id: string; title: string }) {
  const changed = useQuery({ queryKey: keys.changedFiles(id), queryFn: () => api.changedFiles(id) });
  if (changed.isError) return <ErrorState error={changed.error} onRetry={() => void changed.refetch()} />;
  if (!changed.data) return <Waiting what="Reading what was done…" />;
  const { files, count } = changed.data;
  return (
    <Stack
      component="ul"
      tabIndex={0}
      aria-label={`Files of ${title}`}
      sx={{ m: 0, p: 0, pl: 1.5, listStyle: 'none', maxHeight: 260, overflow: 'auto', borderLeft: '2px solid var(--rule)' }}
    >
      {files.map((f, i) => (
        <FileLine key={i} file={f} />
      ))}
      {count > files.length && <li>and {many(count - files.length, 'more', 'more')}</li>}
    </Stack>
  );
}

const FileLine = ({ file: f }: { file: ChangedFileView }) => (
  <li style={{ display: 'grid', gridTemplateColumns: '116px minmax(0, 1fr)', columnGap: 12, fontSize: 13 }}>
    <span style={{ color: 'var(--soft)' }}>{f.did}</span>
    <span>
      <PathText path={f.path} most={96} />
      {f.from !== null && (
        <>
          {' '}
          from <PathText path={f.from} most={84} />
        </>
      )}
    </span>
  </li>
);
