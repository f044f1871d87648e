import { Box, Button, Stack } from '@mui/material';
import { lazy, Suspense, useState } from 'react';
import type { PathRequest, ProjectView, SourcesView } from '@rootmap/core/contract';
import { ChangesList } from '../journal/changes-list.js';
import { FilesAround } from '../places/files-around.js';
import { DropZone } from '../parts/drop-zone.js';
import { bytes } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import { ArrivalCard } from './arrival-card.js';
import { EditionsView } from './editions-view.js';
import { StayedOutPanel } from './stayed-out-panel.js';
import { FetchForm } from './fetch-form.js';
import { canArrive, isArchive } from './send-files.js';
import { useArrivals } from './use-arrivals.js';

const FolderChooser = lazy(() => import('../parts/folder-chooser.js').then((m) => ({ default: m.FolderChooser })));

/** Archives, folders and loose files come in here: looked at first, then unpacked to where they belong. */
export function IntakeView({ project, sources }: { project: ProjectView; sources: SourcesView | undefined }) {
  const [choosing, setChoosing] = useState(false);
  const { ids, sending, error, address, setAddress, arrived, send, look, forget } = useArrivals();
  const choose = (at: PathRequest): void => {
    setChoosing(false);
    look(at);
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
      <FetchForm projectKey={project.key} address={address} onAddress={setAddress} onArrived={arrived} />
      {error !== null && <ErrorState error={error} />}
      <Stack spacing={1.5}>
        {ids.map((id) => (
          <ArrivalCard key={id} id={id} project={project} sources={sources} onGone={() => forget(id)} />
        ))}
      </Stack>
      {ids.length === 0 && <Around projectKey={project.key} onChoose={choose} />}
      <StayedOutPanel projectKey={project.key} />
      {sources && <EditionsView projectKey={project.key} sources={sources} onFetch={setAddress} />}
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

/** While nothing is looked at: archives that lie about, and what was brought in before. */
function Around({ projectKey, onChoose }: { projectKey: string; onChoose: (at: PathRequest) => void }) {
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fit, minmax(min(100%, 420px), 1fr))', gap: 1.5, alignItems: 'start' }}>
      <FilesAround
        title="Archives that lie about"
        accepts={isArchive}
        button="Look into it"
        onChoose={onChoose}
        empty="None lies at the top of a place, or in a folder called downloads. Choose one in a place, or drop it above."
      />
      <ChangesList
        title="Brought in before"
        kind="intake"
        project={projectKey}
        empty="Nothing yet. What comes in stands here with its day, and can be taken back."
      />
    </Box>
  );
}
