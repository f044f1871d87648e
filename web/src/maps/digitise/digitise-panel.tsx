import { Box, Button, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { LayerDataView, NewDataset, ProjectView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { keys, useWorkFolder } from '../../api/queries.js';
import { inRoot } from '../../folders/moves.js';
import { tellDone } from '../../journal/tell-done.js';
import { ErrorState, Waiting } from '../../parts/states.js';
import type { MapPlane } from '../edit/map-plane.js';
import type { MapScene } from '../edit/map-scene.js';
import { DrawingSession } from './drawing-session.js';
import { NewDatasetForm } from './new-dataset-form.js';

interface Props {
  readonly project: ProjectView;
  /** From the root. */
  readonly map: string;
  readonly plane: MapPlane;
  readonly scene: MapScene | null;
  /** Null: a new dataset is drawn. */
  readonly target: { readonly dataset: LayerDataView; readonly title: string } | null;
  /** A dataset came to be that the map should show. */
  readonly onMade: (dataset: string) => void;
  readonly onClose: () => void;
}

/** Shapes are drawn and edited here; saved as one change, or dropped. Originals are offered a working copy first. */
export function DigitisePanel({ project, map, plane, scene, target, onMade, onClose }: Props) {
  const [create, setCreate] = useState<NewDataset | null>(null);
  const crs = plane.crs?.code ?? null;
  const id = target?.dataset.dataset ?? null;
  const loaded = useQuery({
    queryKey: keys.of(project.key, 'editable', id, crs),
    queryFn: () => api.editable(project.key, { dataset: id!, crs: crs! }),
    enabled: id !== null && crs !== null,
    staleTime: Infinity,
    gcTime: 0,
    retry: false,
  });
  if (crs === null || !scene)
    return (
      <Ask title="The map has no CRS yet" onClose={onClose}>
        Shapes are drawn in the CRS of the map. Bring a layer in first, or choose a CRS.
      </Ask>
    );
  if (target === null)
    return create === null ? (
      <NewDatasetForm project={project} map={map} crs={crs} onStart={setCreate} onClose={onClose} />
    ) : (
      <DrawingSession
        project={project}
        plane={plane}
        scene={scene}
        title={create.table || create.at.path.replace(/^.*\//, '')}
        kind={create.kind}
        fields={create.fields}
        records={[]}
        base={{ dataset: null, create, crs, state: '' }}
        onSaved={(dataset) => (onMade(dataset), onClose())}
        onClose={onClose}
      />
    );
  if (loaded.isError) return <ErrorState error={loaded.error} />;
  if (!loaded.data) return <Waiting what="Reading its shapes…" />;
  if (loaded.data.isOriginal) return <WorkingCopy project={project} id={id!} title={target.title} onMade={onMade} onClose={onClose} />;
  if (loaded.data.why !== null || loaded.data.kind === null)
    return (
      <Ask title={`${target.title} cannot be edited here`} onClose={onClose}>
        {loaded.data.why ?? 'its shapes are of several kinds'}.
      </Ask>
    );
  return (
    <DrawingSession
      project={project}
      plane={plane}
      scene={scene}
      title={target.title}
      kind={loaded.data.kind}
      fields={loaded.data.fields}
      records={loaded.data.records}
      base={{ dataset: id, create: null, crs, state: loaded.data.state }}
      onSaved={onClose}
      onClose={onClose}
    />
  );
}

const Ask = ({ title, children, onClose }: { title: string; children: React.ReactNode; onClose: () => void }) => (
  <Box sx={{ p: 2 }}>
    <Typography variant="h2">{title}</Typography>
    <Typography sx={{ my: 1 }}>{children}</Typography>
    <Button onClick={onClose}>Close</Button>
  </Box>
);

/** Originals are never edited: a copy in the folder for work is, and the map shows it. */
function WorkingCopy({
  project,
  id,
  title,
  onMade,
  onClose,
}: {
  project: ProjectView;
  id: string;
  title: string;
  onMade: (id: string) => void;
  onClose: () => void;
}) {
  const folder = useWorkFolder(project.key);
  const hash = /\.gpkg#/i.exec(id);
  const path = hash ? id.slice(0, hash.index + 5) : id;
  const name = path.slice(path.lastIndexOf('/') + 1);
  const copy = useMutation({
    mutationFn: (folder: string) =>
      api.applyEdit(project.key, {
        kind: 'copy',
        from: inRoot(project, path.slice(project.root.length + 1)),
        to: inRoot(project, `${folder}/${name}`),
      }),
    onSuccess: (applied, folder) => {
      tellDone(`${name} copied to ${folder}.`, applied.change);
      onMade(`${project.root}/${folder}/${name}${id.slice(path.length)}`);
      onClose();
    },
  });
  return (
    <Box sx={{ p: 2 }}>
      <Typography variant="h2">{title} is an original</Typography>
      <Typography sx={{ my: 1 }}>
        Originals stay as they came. A working copy in {folder ?? '…'} can be edited; it is added to the map.
      </Typography>
      {copy.isError && <ErrorState error={copy.error} />}
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button variant="contained" disabled={copy.isPending || folder === null} onClick={() => folder !== null && copy.mutate(folder)}>
          Make a working copy
        </Button>
        <Button onClick={onClose}>Cancel</Button>
      </Box>
    </Box>
  );
}
