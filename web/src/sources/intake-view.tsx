import { mdiTrayArrowDown } from '@mdi/js';
import { Box, Button, Stack, Typography } from '@mui/material';
import { lazy, Suspense, useEffect, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { useSearchParams } from 'react-router';
import type { PathRequest, ProjectView, SourcesView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { bytes } from '../parts/format.js';
import { Icon } from '../parts/icon.js';
import { ErrorState } from '../parts/states.js';
import { ArrivalCard } from './arrival-card.js';
import { isArchive, sendFiles } from './send-files.js';

const FolderChooser = lazy(() => import('../parts/folder-chooser.js').then((m) => ({ default: m.FolderChooser })));

/** Archives, folders and loose files come in here: looked at first, then unpacked to where they belong. */
export function IntakeView({ project, sources }: { project: ProjectView; sources: SourcesView | undefined }) {
  const [search, setSearch] = useSearchParams();
  const [ids, setIds] = useState<readonly string[]>(() => (search.get('arrivals') ?? '').split(',').filter(Boolean));
  const [sending, setSending] = useState<{ name: string; bytes: number } | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [choosing, setChoosing] = useState(false);
  useEffect(() => {
    setSearch(
      (before) => {
        const now = new URLSearchParams(before);
        if (ids.length) now.set('arrivals', ids.join(','));
        else now.delete('arrivals');
        return now;
      },
      { replace: true },
    );
    // The address follows what was dropped, not the other way round.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [ids]);
  const add = (id: string): void => setIds((known) => (known.includes(id) ? known : [...known, id]));
  const send = async (files: readonly File[]): Promise<void> => {
    setError(null);
    try {
      await sendFiles(files, (file) => setSending({ name: file.name, bytes: file.size }), add);
    } catch (problem) {
      setError(problem);
    } finally {
      setSending(null);
    }
  };
  const zone = useDropzone({ onDrop: (files) => void send(files), noKeyboard: true, noClick: true });
  const choose = (at: PathRequest): void => {
    setChoosing(false);
    api.chooseArrival(at).then(({ id }) => add(id), setError);
  };
  return (
    <Box sx={{ height: '100%', overflow: 'auto' }}>
      <Box
        {...zone.getRootProps({ role: 'group', 'aria-label': 'Drop archives, folders or files here' })}
        sx={{
          border: '2px dashed var(--stone)',
          borderColor: zone.isDragActive ? 'var(--ochre)' : 'var(--stone)',
          bgcolor: zone.isDragActive ? 'var(--ochre-wash)' : 'var(--sheet)',
          borderRadius: '6px',
          p: ids.length === 0 ? 4 : 1.5,
          mb: 1.5,
          display: 'flex',
          alignItems: 'center',
          gap: 2,
        }}
      >
        <input {...zone.getInputProps({ 'aria-label': 'Files to bring in' })} />
        <Icon path={mdiTrayArrowDown} sx={{ fontSize: 28, color: 'var(--spruce)' }} aria-hidden />
        <Box sx={{ flex: 1 }}>
          <Typography variant="h2">Drop archives, folders or files here</Typography>
          <Typography variant="body2" color="text.secondary" role="status">
            {sending
              ? `Taking ${sending.name} (${bytes(sending.bytes)}) …`
              : 'Everything is looked at before it is unpacked: what is in it, what is missing, where it belongs.'}
          </Typography>
        </Box>
        <Stack direction="row" spacing={1}>
          <Button variant="outlined" onClick={zone.open}>
            Choose files
          </Button>
          <Button variant="outlined" onClick={() => setChoosing(true)}>
            Choose in a place
          </Button>
        </Stack>
      </Box>
      {error !== null && <ErrorState error={error} />}
      <Stack spacing={1.5}>
        {ids.map((id) => (
          <ArrivalCard
            key={id}
            id={id}
            project={project}
            sources={sources}
            onGone={() => setIds((known) => known.filter((k) => k !== id))}
          />
        ))}
      </Stack>
      <Suspense>
        {choosing && (
          <FolderChooser
            open
            title="Choose an archive, or the folder you are in"
            acceptsFile={isArchive}
            useFolderLabel="Bring this folder in"
            onClose={() => setChoosing(false)}
            onChoose={choose}
          />
        )}
      </Suspense>
    </Box>
  );
}
