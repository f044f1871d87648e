import { Box, Button, Stack } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useState } from 'react';
import { Link } from 'react-router';
import type { MapView, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { many } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import { ReferencesTable } from './references-table.js';
import { StoredFormDialog } from './stored-form-dialog.js';

interface Props {
  readonly project: ProjectView;
  /** Null: all maps of the project. */
  readonly map: MapView | null;
  readonly layer: string | null;
  readonly isNarrow?: boolean;
}

/** The references of one map or of all: where each leads, in which form, and what can be done about it. */
export function ReferencesPanel({ project, map, layer, isNarrow = false }: Props) {
  const { enqueueSnackbar } = useSnackbar();
  const [switching, setSwitching] = useState<'relative' | 'absolute' | null>(null);
  const remember = useMutation({
    mutationFn: () => api.remember(project.key),
    onSuccess: (done) =>
      enqueueSnackbar(
        done.change
          ? `${many(done.applied, 'layer')} remembered, in ${many(done.change.files.length, 'map file')}.`
          : 'Every sound layer was remembered already; no file was changed.',
      ),
  });
  const layers = map ? map.layers : project.maps.flatMap((m) => m.layers);
  const isBroken = (state: string): boolean => state !== 'sound' && state !== 'absent';
  const broken = layers.filter((l) => isBroken(l.state));
  return (
    <>
      <Stack direction="row" spacing={1} useFlexGap sx={{ p: 1, alignItems: 'center', flexWrap: 'wrap' }}>
        {broken.length > 0 && (
          <Button component={Link} to={`/p/${project.key}/mend?layer=${encodeURIComponent(broken[0]!.key)}`} variant="contained">
            Mend {broken.length}
          </Button>
        )}
        <Button variant="outlined" onClick={() => setSwitching('relative')}>
          Store relatively
        </Button>
        <Button variant="outlined" onClick={() => setSwitching('absolute')}>
          Store absolutely
        </Button>
        <Button onClick={() => remember.mutate()} disabled={remember.isPending}>
          Remember the data
        </Button>
      </Stack>
      {remember.isError && <ErrorState error={remember.error} />}
      <Box sx={{ flex: 1, minHeight: 0 }}>
        <ReferencesTable project={project} layers={layers} showMap={map === null} marked={layer} isNarrow={isNarrow} />
      </Box>
      {switching && <StoredFormDialog projectKey={project.key} map={map} form={switching} onClose={() => setSwitching(null)} />}
    </>
  );
}
