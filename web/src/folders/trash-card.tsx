import { Box, Button, Stack, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { enqueueSnackbar } from 'notistack';
import { useState } from 'react';
import type { FoldersView, TrashedView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { undoAndTell } from '../journal/undo-flow.js';
import { bytes, dateTime, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, sentenceOf, Sheet, Waiting } from '../parts/states.js';

interface Props {
  readonly projectKey: string;
  readonly view: FoldersView;
}

/** What is in the trash, by the change that put it there, each brought back by undoing that; and emptying it. */
export function TrashCard({ projectKey, view }: Props) {
  const [sure, setSure] = useState(false);
  const empty = (): void => {
    setSure(false);
    api.emptyTrash(projectKey).then(
      ({ bytes: freed }) => enqueueSnackbar(`${bytes(freed)} freed. Deletions before now can no longer be undone.`),
      (error: unknown) => enqueueSnackbar(sentenceOf(error), { variant: 'error' }),
    );
  };
  return (
    <Sheet sx={{ p: 2 }}>
      <Typography variant="h2">Trash: {bytes(view.trashBytes)}</Typography>
      <Typography variant="body2" color="text.secondary" sx={{ my: 0.5 }}>
        {view.trashBytes === 0
          ? 'Empty: nothing was deleted, it was taken back, or the trash was emptied.'
          : 'What was deleted or replaced. It can be brought back until the trash is emptied.'}
      </Typography>
      {view.trashBytes > 0 && <Trashed projectKey={projectKey} readOnly={view.readOnly} />}
      {view.trashBytes > 0 &&
        (sure ? (
          <Stack direction="row" spacing={1}>
            <Button variant="contained" color="error" onClick={empty}>
              Yes, free {bytes(view.trashBytes)} for good
            </Button>
            <Button onClick={() => setSure(false)}>Keep it</Button>
          </Stack>
        ) : (
          <Button variant="outlined" disabled={view.readOnly} onClick={() => setSure(true)}>
            Empty the trash
          </Button>
        ))}
    </Sheet>
  );
}

function Trashed({ projectKey, readOnly }: { projectKey: string; readOnly: boolean }) {
  const trash = useQuery({ queryKey: keys.of(projectKey, 'trash'), queryFn: () => api.trash(projectKey) });
  if (trash.isError) return <ErrorState error={trash.error} onRetry={() => void trash.refetch()} />;
  if (!trash.data) return <Waiting what="Looking into the trash…" />;
  return (
    <Box
      component="ul"
      tabIndex={0}
      aria-label="What is in the trash"
      sx={{ m: 0, mb: 1.5, p: 0, listStyle: 'none', maxHeight: 300, overflow: 'auto', borderTop: '1px solid var(--rule)' }}
    >
      {trash.data.map((t) => (
        <TrashedLine key={t.id} trashed={t} readOnly={readOnly} />
      ))}
    </Box>
  );
}

const TrashedLine = ({ trashed: t, readOnly }: { trashed: TrashedView; readOnly: boolean }) => (
  <Box component="li" sx={{ display: 'flex', gap: 1.5, py: 0.75, borderBottom: '1px solid var(--rule)', alignItems: 'center' }}>
    <Box sx={{ flex: 1, minWidth: 0 }}>
      <Typography variant="body2" sx={{ fontWeight: 650 }}>
        {t.title ?? 'A change that the journal does not know'}
      </Typography>
      {t.paths.map((p) => (
        <div key={p}>
          <PathText path={p} most={64} />
        </div>
      ))}
      <Typography variant="body2" color="text.secondary">
        {many(t.count, 'file or folder', 'files and folders')}, {bytes(t.bytes)}
        {t.createdMs !== null && `, ${dateTime(t.createdMs)}`}
      </Typography>
    </Box>
    {t.restore !== null && (
      <Button
        variant="outlined"
        size="small"
        disabled={readOnly}
        aria-label={`Bring back: ${t.title}`}
        onClick={() => void undoAndTell(t.restore!, true)}
      >
        Bring back
      </Button>
    )}
  </Box>
);
