import { Box, Button, Stack, Table, TableBody, TableCell, TableHead, TableRow, TextField, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { Link } from 'react-router';
import type { DriveView, PathRequest, PlaceRequest, PlaceView, ProjectSummary } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, usePlaces, useProjects, useStatus } from '../api/queries.js';
import { FolderChooser } from '../parts/folder-chooser.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Sheet, Tag, Waiting } from '../parts/states.js';
import { OwnHosts } from './own-hosts.js';
import { driveOf, Drives, KINDS, useDrives } from './drives.js';

interface Fields {
  name: string;
  folder: string;
  driveNames: string;
}

/** The storage areas that may be used, and what other machines call them. */
export function PlacesPage() {
  const places = usePlaces();
  const status = useStatus();
  const drives = useDrives();
  const client = useQueryClient();
  const remove = useMutation({ mutationFn: api.removePlace, onSuccess: (all) => client.setQueryData(keys.places, all) });
  const editable = status.data?.placesEditable === true;
  const [picked, setPicked] = useState<DriveView | null>(null);
  return (
    <Stack spacing={2} sx={{ p: { xs: 1.5, md: 3 }, overflow: 'auto' }}>
      <Typography variant="h1">Places</Typography>
      <Typography color="text.secondary">
        A place is a drive, a share or a stick that Root Map may use; it sees nothing else. Its drive names are what map files written on
        other machines call it.
      </Typography>
      {remove.isError && <ErrorState error={remove.error} />}
      {places.isError ? (
        <ErrorState error={places.error} onRetry={() => void places.refetch()} />
      ) : !places.data ? (
        <Waiting what="Looking at the places…" />
      ) : (
        <PlaceTable places={places.data} drives={drives.data ?? []} onRemove={editable ? remove.mutate : null} />
      )}
      {drives.data && (
        <>
          <Typography variant="h2">Drives of this machine</Typography>
          <Drives drives={drives.data} places={places.data ?? []} onPick={editable ? setPicked : null} />
        </>
      )}
      {places.data && status.data && <OwnHosts places={places.data} status={status.data} />}
      {editable ? (
        <AddPlace key={picked?.folder ?? ''} picked={picked} />
      ) : (
        status.data && (
          <Typography>Places are set by the configuration (ROOTMAP_PLACES) here. Change them there and start again.</Typography>
        )
      )}
    </Stack>
  );
}

interface TableProps {
  readonly places: readonly PlaceView[];
  readonly drives: readonly DriveView[];
  readonly onRemove: ((name: string) => void) | null;
}

function PlaceTable({ places, drives, onRemove }: TableProps) {
  const projects = useProjects().data ?? [];
  return (
    <Sheet sx={{ overflowX: 'auto', flex: 'none' }}>
      <Table size="small" sx={{ minWidth: 760 }}>
        <TableHead>
          <TableRow>
            <TableCell>Name</TableCell>
            <TableCell>Drive names</TableCell>
            <TableCell>Now</TableCell>
            <TableCell>Projects on it</TableCell>
            <TableCell>Folder of this machine</TableCell>
            <TableCell />
          </TableRow>
        </TableHead>
        <TableBody>
          {places.map((p) => (
            <TableRow key={p.name} sx={{ '& > td': { verticalAlign: 'top' } }}>
              <TableCell sx={{ fontWeight: 650, fontSize: 14 }}>{p.name}</TableCell>
              <TableCell className="mono">{p.driveNames.join(', ')}</TableCell>
              <TableCell>
                <PlaceState place={p} />
              </TableCell>
              <TableCell>
                <ProjectsOn projects={projects.filter((q) => q.place === p.name)} />
              </TableCell>
              <TableCell sx={{ color: 'text.secondary' }}>
                <PathText path={p.folder} most={48} colour="var(--soft)" />
                <StandsOn drive={p.present ? driveOf(p.folder, drives) : null} />
              </TableCell>
              <TableCell align="right">{onRemove && <Button onClick={() => onRemove(p.name)}>Remove from the list</Button>}</TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
    </Sheet>
  );
}

const PlaceState = ({ place: p }: { place: PlaceView }) => (
  <>
    {!p.present ? <Tag tone="slate">absent</Tag> : p.readOnly ? <Tag tone="ochre">read only</Tag> : <Tag tone="spruce">present</Tag>}
    {p.formerly && (
      <Typography variant="body2">
        known again by what is on it; before at <span className="mono">{p.formerly}</span>
      </Typography>
    )}
  </>
);

const ProjectsOn = ({ projects }: { projects: readonly ProjectSummary[] }) =>
  projects.length === 0 ? (
    <Typography variant="body2" color="text.secondary">
      none of the list
    </Typography>
  ) : (
    projects.map((p) => (
      <Box key={p.key} sx={{ lineHeight: '24px' }}>
        {p.present ? <Link to={`/p/${p.key}/overview`}>{p.title}</Link> : p.title}
      </Box>
    ))
  );

const StandsOn = ({ drive }: { drive: DriveView | null }) =>
  drive && (
    <Typography variant="body2" color="text.secondary">
      on <span className="mono">{drive.shown}</span>, {KINDS[drive.kind]} {drive.share && <span className="mono">{drive.share}</span>}
    </Typography>
  );

/** A name for a place that a drive becomes: its label or letter. */
const nameFor = (drive: DriveView): string => (drive.label ?? drive.folder.replace(/[:/\\]+$/, '').replace(/^.*\//, '')).slice(0, 40);

const fieldsOf = (picked: DriveView | null): Fields => ({
  name: picked ? nameFor(picked) : '',
  folder: picked?.shown ?? '',
  driveNames: picked?.share?.startsWith('//') ? picked.share.replaceAll('/', '\\') : '',
});

function AddPlace({ picked }: { picked: DriveView | null }) {
  const client = useQueryClient();
  const places = usePlaces();
  const [choosing, setChoosing] = useState(false);
  const { register, handleSubmit, reset, setValue, formState } = useForm<Fields>({ defaultValues: fieldsOf(picked) });
  const add = useMutation({
    mutationFn: (place: PlaceRequest) => api.addPlace(place),
    onSuccess: (all) => {
      client.setQueryData(keys.places, all);
      reset();
    },
  });
  const submit = handleSubmit(({ name, folder, driveNames }) =>
    add.mutate({ name, folder, driveNames: driveNames.split(',').flatMap((d) => d.trim() || []) }),
  );
  const choose = (at: PathRequest): void => {
    const place = places.data?.find((p) => p.name === at.place);
    if (place) setValue('folder', [place.folder, at.path].filter(Boolean).join('/'), { shouldValidate: true });
    setChoosing(false);
  };
  return (
    <Sheet sx={{ p: 2 }}>
      <Box component="form" noValidate onSubmit={(e) => void submit(e)}>
        <Typography variant="h2" sx={{ mb: 1.5 }}>
          Add a place
        </Typography>
        <Stack direction="row" spacing={1.5} sx={{ alignItems: 'flex-start' }}>
          <TextField
            label="Name"
            autoFocus={picked !== null}
            {...register('name', { required: 'Give it a short name.' })}
            error={!!formState.errors.name}
            helperText={formState.errors.name?.message ?? ' '}
            sx={{ width: 160 }}
          />
          <TextField
            label="Folder"
            {...register('folder', { required: 'Type or choose its folder.' })}
            error={!!formState.errors.folder}
            helperText={formState.errors.folder?.message ?? ' '}
            slotProps={{ inputLabel: { shrink: true }, htmlInput: { className: 'mono' } }}
            sx={{ flex: 1 }}
          />
          <Button variant="outlined" onClick={() => setChoosing(true)} sx={{ height: 38 }}>
            Choose
          </Button>
          <TextField
            label="Drive names"
            {...register('driveNames')}
            helperText="D: or \\server\share, commas between"
            slotProps={{ htmlInput: { className: 'mono' } }}
            sx={{ width: 240 }}
          />
          <Button type="submit" variant="contained" disabled={add.isPending} sx={{ height: 38 }}>
            Add place
          </Button>
        </Stack>
        {add.isError && <ErrorState error={add.error} />}
      </Box>
      <FolderChooser
        open={choosing}
        title="Choose the folder of the place"
        useFolderLabel="Use this folder"
        onClose={() => setChoosing(false)}
        onChoose={choose}
      />
    </Sheet>
  );
}
