import { Box, Button, Stack } from '@mui/material';
import { lazy, Suspense, useEffect, useRef, useState } from 'react';
import type { PathRequest, ProjectView, SourcesView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { ChangesList } from '../journal/changes-list.js';
import { FilesAround } from '../places/files-around.js';
import { DropZone } from '../parts/drop-zone.js';
import { bytes } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import { ArrivalCard } from './arrival-card.js';
import { EditionsView } from './editions-view.js';
import { StayedOutPanel } from './stayed-out-panel.js';
import { FetchForm } from './fetch-form.js';
import { useStable } from '../parts/use-stable.js';
import { canArrive, isArchive, sendFiles } from './send-files.js';
import { useUrlState } from '../parts/use-url-state.js';

const FolderChooser = lazy(() => import('../parts/folder-chooser.js').then((m) => ({ default: m.FolderChooser })));

/** Archives, folders and loose files come in here: looked at first, then unpacked to where they belong. */
export function IntakeView({ project, sources }: { project: ProjectView; sources: SourcesView | undefined }) {
  const [search, set] = useUrlState();
  const [ids, setIds] = useState<readonly string[]>(() => (search.get('arrivals') ?? '').split(',').filter(Boolean));
  const [sending, setSending] = useState<{ name: string; bytes: number } | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [choosing, setChoosing] = useState(false);
  useEffect(() => {
    set({ arrivals: ids.join(',') });
    // The address follows what was dropped, not the other way round.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [ids]);
  const add = useStable((id: string): void => setIds((known) => (known.includes(id) ? known : [...known, id])));
  const arrived = useStable((id: string): void => {
    add(id);
    set({ address: null });
  });
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
  // An archive that an address names is looked into at once; then the address names what arrived.
  const named = search.get('archive');
  const asked = useRef<string | null>(null);
  useEffect(() => {
    if (named === null || asked.current === named) return;
    asked.current = named;
    const at = named.indexOf(':');
    api.chooseArrival({ place: named.slice(0, at), path: named.slice(at + 1) }).then(({ id }) => {
      add(id);
      set({ archive: null });
    }, setError);
  }, [named, set, add]);
  const choose = (at: PathRequest): void => {
    setChoosing(false);
    api.chooseArrival(at).then(({ id }) => add(id), setError);
  };
  return (
    <Box sx={{ height: '100%', overflow: 'auto' }}>
      <DropZone
        title="Drop archives, folders or files here"
        status={
          sending
            ? `Taking ${sending.name} (${bytes(sending.bytes)}) …`
            : 'Everything is looked at before it is unpacked: what is in it, what is missing, where it belongs.'
        }
        inputLabel="Files to bring in"
        chooseLabel="Choose files"
        isRoomy={ids.length === 0}
        onFiles={(files) => void send(files)}
      >
        <Button variant="outlined" onClick={() => setChoosing(true)}>
          Choose in a place
        </Button>
      </DropZone>
      <FetchForm
        projectKey={project.key}
        address={search.get('address') ?? ''}
        onAddress={(address) => set({ address })}
        onArrived={arrived}
      />
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
      {ids.length === 0 && (
        <Box
          sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fit, minmax(min(100%, 420px), 1fr))', gap: 1.5, alignItems: 'start' }}
        >
          <FilesAround
            title="Archives that lie about"
            accepts={isArchive}
            button="Look into it"
            onChoose={choose}
            empty="None lies at the top of a place, or in a folder called downloads. Choose one in a place, or drop it above."
          />
          <ChangesList
            title="Brought in before"
            kind="intake"
            project={project.key}
            empty="Nothing yet. What comes in stands here with its day, and can be taken back."
          />
        </Box>
      )}
      <StayedOutPanel projectKey={project.key} />
      {sources && <EditionsView projectKey={project.key} sources={sources} onFetch={(address) => set({ address })} />}
      <Suspense>
        {choosing && (
          <FolderChooser
            open
            title="Choose an archive, a dataset, or the folder you are in"
            acceptsFile={canArrive}
            useFolderLabel="Bring this folder in"
            onClose={() => setChoosing(false)}
            onChoose={choose}
          />
        )}
      </Suspense>
    </Box>
  );
}
