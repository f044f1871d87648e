import { Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { MendLayerView, PathRequest, PointedView, SearchRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { FolderChooser } from '../parts/folder-chooser.js';
import { many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { useToggled } from '../parts/use-toggled.js';
import { isDatasetFile } from './dataset-file.js';
import { RewriteList } from './rewrite-list.js';
import { useSubject } from './subject.js';

interface Props {
  readonly projectKey: string;
  readonly layer: MendLayerView;
  readonly searched: SearchRequest;
  readonly onClose: () => void;
  readonly onMend: (choices: { key: string; path: string }[]) => Promise<unknown>;
}

/** A person shows where one layer's data is; all others that the same shift explains are offered with it. */
export function PointDialog({ projectKey, layer, searched, onClose, onMend }: Props) {
  const { start } = useSubject();
  const [target, setTarget] = useState<PathRequest | null>(null);
  const point = useMutation({ mutationFn: (at: PathRequest) => api.point(projectKey, { key: layer.key, target: at, ...searched }) });
  const choose = (at: PathRequest): void => {
    setTarget(at);
    point.mutate(at);
  };
  if (target === null)
    return (
      <FolderChooser
        open
        title={`Where is the data of “${layer.title}”?`}
        useFolderLabel="It is in this folder"
        acceptsFile={isDatasetFile}
        start={start}
        onChoose={choose}
        onClose={onClose}
      />
    );
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="point-title">
      <DialogTitle id="point-title" variant="h2">
        {point.data ? `This explains ${many(point.data.mends.length, 'layer')}` : 'Looking'}
      </DialogTitle>
      {point.isError ? (
        <>
          <DialogContent>
            <ErrorState error={point.error} />
          </DialogContent>
          <DialogActions sx={{ px: 3, pb: 2 }}>
            <Button onClick={() => setTarget(null)}>Point elsewhere</Button>
            <Button onClick={onClose}>Cancel</Button>
          </DialogActions>
        </>
      ) : point.data ? (
        <Pointed pointed={point.data} first={layer.key} onClose={onClose} onMend={onMend} />
      ) : (
        <DialogContent>
          <Waiting what="Trying the same shift on every other layer…" />
        </DialogContent>
      )}
    </Dialog>
  );
}

function Pointed({
  pointed,
  first,
  onClose,
  onMend,
}: {
  pointed: PointedView;
  first: string;
  onClose: () => void;
  onMend: Props['onMend'];
}) {
  const [left, toggle] = useToggled();
  const chosen = pointed.mends.filter((m) => !left.has(m.key));
  const mend = useMutation({ mutationFn: () => onMend(chosen.map(({ key, path }) => ({ key, path }))), onSuccess: onClose });
  return (
    <>
      <DialogContent>
        <Typography component="div" sx={{ mb: 1 }}>
          <PathText path={pointed.from || 'the place itself'} most={40} struck /> →{' '}
          <PathText path={pointed.to || 'the place itself'} most={40} />
        </Typography>
        <RewriteList
          rewrites={pointed.mends.map((m) => ({ ...m, label: `${m.title} in ${m.mapTitle}` }))}
          first={first}
          left={left}
          onToggle={toggle}
        />
        {mend.isError && <ErrorState error={mend.error} />}
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={mend.isPending} onClick={() => mend.mutate()}>
          Mend {many(chosen.length, 'layer')}
        </Button>
      </DialogActions>
    </>
  );
}
