import { Box, Button, Stack, Table, TableBody, TableCell, TableHead, TableRow, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import type { ChangeView } from '@rootmap/core/contract';
import { undoAndTell } from './tell-done.js';
import { useJournal } from '../api/queries.js';
import { dateTime, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { EmptyState, ErrorState, Sheet, Tag, Waiting } from '../parts/states.js';

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
  const journal = useJournal();
  const undo = useMutation({ mutationFn: undoAndTell });
  return (
    <Stack spacing={2} sx={{ p: 3, overflow: 'auto' }}>
      <Typography variant="h1">Journal</Typography>
      {journal.isError ? (
        <ErrorState error={journal.error} onRetry={() => void journal.refetch()} />
      ) : !journal.data ? (
        <Waiting what="Reading the journal…" />
      ) : journal.data.length === 0 ? (
        <EmptyState title="Nothing was changed yet">
          What Root Map changes on disk is written down here, and each change can be taken back.
        </EmptyState>
      ) : (
        <Sheet>
          <Table size="small">
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
              {journal.data.map((c) => (
                <ChangeRow key={c.id} change={c} busy={undo.isPending} onUndo={() => undo.mutate(c.id)} />
              ))}
            </TableBody>
          </Table>
        </Sheet>
      )}
    </Stack>
  );
}

function ChangeRow({ change: c, busy, onUndo }: { change: ChangeView; busy: boolean; onUndo: () => void }) {
  const state = c.isWaiting ? WAITING : STATE[c.state];
  return (
    <TableRow>
      <TableCell sx={{ whiteSpace: 'nowrap' }}>{dateTime(c.createdMs)}</TableCell>
      <TableCell>
        <Box sx={{ fontWeight: 650 }}>{c.title}</Box>
        {c.note && <Box sx={{ color: 'text.secondary' }}>{c.note}</Box>}
      </TableCell>
      <TableCell>
        {c.files.slice(0, 3).map((f) => (
          <div key={f}>
            <PathText path={f} most={62} />
          </div>
        ))}
        {c.files.length > 3 && <div>and {many(c.files.length - 3, 'more', 'more')}</div>}
      </TableCell>
      <TableCell>{c.who}</TableCell>
      <TableCell>
        <Tag tone={state.tone}>{state.word}</Tag>
      </TableCell>
      <TableCell align="right">
        {c.canUndo && (
          <Button variant="outlined" disabled={busy} onClick={onUndo} aria-label={`Undo: ${c.title}`}>
            Undo
          </Button>
        )}
      </TableCell>
    </TableRow>
  );
}
