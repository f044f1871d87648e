import { Box, Button, ButtonBase, Stack, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { MapView, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useOpenProject } from '../frame/use-project.js';
import { bytes, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { EmptyState, ErrorState, Sheet, Tag } from '../parts/states.js';
import { ReferencesTable } from './references-table.js';
import { StoredFormDialog } from './stored-form-dialog.js';

/** The maps of the project, and the references of one of them or of all. */
export function MapsPage() {
  const project = useOpenProject();
  const [search, setSearch] = useSearchParams();
  const wanted = search.get('map');
  const map = project.maps.find((m) => m.relativePath === wanted) ?? null;
  const choose = (path: string | null): void => setSearch(path === null ? {} : { map: path });
  if (project.maps.length === 0 && project.damaged.length === 0)
    return <EmptyState title="No map here yet">Maps are files that end in .owc.json, anywhere below the root.</EmptyState>;
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '280px minmax(0, 1fr)', gap: 1.5, p: 1.5, height: '100%', boxSizing: 'border-box' }}>
      <Stack spacing={1} sx={{ overflow: 'auto' }} role="group" aria-label="Maps">
        <MapCard
          title="All maps"
          detail={`${many(project.maps.length, 'map')}, ${many(
            project.maps.reduce((n, m) => n + m.layers.length, 0),
            'layer',
          )}`}
          chosen={map === null}
          onChoose={() => choose(null)}
        />
        {project.maps.map((m) => (
          <MapCard
            key={m.path}
            map={m}
            title={m.title}
            detail={m.relativePath}
            chosen={m === map}
            onChoose={() => choose(m.relativePath)}
          />
        ))}
        {project.damaged.map((d) => (
          <Box key={d.path} role="alert" sx={{ p: 1.5, borderRadius: 1, bgcolor: 'var(--plum-wash)', overflowWrap: 'anywhere' }}>
            <Tag tone="plum">damaged</Tag> {d.message}
          </Box>
        ))}
      </Stack>
      <References key={map?.path ?? 'all'} project={project} map={map} layer={search.get('layer')} />
    </Box>
  );
}

function MapCard({
  map,
  title,
  detail,
  chosen,
  onChoose,
}: {
  map?: MapView;
  title: string;
  detail: string;
  chosen: boolean;
  onChoose: () => void;
}) {
  const broken = map?.layers.filter((l) => l.state !== 'sound' && l.state !== 'absent').length ?? 0;
  const absent = map?.layers.filter((l) => l.state === 'absent').length ?? 0;
  return (
    <ButtonBase
      onClick={onChoose}
      aria-pressed={chosen}
      sx={{
        display: 'block',
        textAlign: 'left',
        fontFamily: 'inherit',
        p: 1.5,
        borderRadius: '6px',
        border: `1.5px solid ${chosen ? 'var(--spruce)' : 'var(--rule)'}`,
        bgcolor: 'var(--sheet)',
        flex: 'none',
      }}
    >
      <Typography variant="h3" component="div">
        {title}
      </Typography>
      <Box sx={{ color: 'text.secondary', fontSize: 12.5, mb: 0.5 }} className={map ? 'mono' : undefined}>
        {detail}
      </Box>
      {map && (
        <Stack direction="row" useFlexGap spacing={0.75} sx={{ flexWrap: 'wrap' }}>
          <Tag tone="spruce">{map.layers.length - broken - absent} sound</Tag>
          {broken > 0 && <Tag tone="plum">{broken} to mend</Tag>}
          {absent > 0 && <Tag tone="slate">{absent} absent</Tag>}
          <Tag tone="slate">{map.storedForm}</Tag>
        </Stack>
      )}
    </ButtonBase>
  );
}

function References({ project, map, layer }: { project: ProjectView; map: MapView | null; layer: string | null }) {
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
  const broken = layers.filter((l) => l.state !== 'sound' && l.state !== 'absent').length;
  return (
    <Sheet sx={{ display: 'flex', flexDirection: 'column', minHeight: 0 }}>
      <Stack direction="row" spacing={1} sx={{ p: 1.5, alignItems: 'center' }}>
        <Box sx={{ flex: 1, minWidth: 0 }}>
          <Typography variant="h1">{map ? map.title : 'References of all maps'}</Typography>
          {map && (
            <Typography variant="body2" color="text.secondary" component="div">
              <PathText path={map.relativePath} most={50} /> · {bytes(map.bytes)} · {many(layers.length, 'layer')}
            </Typography>
          )}
        </Box>
        {broken > 0 && (
          <Button
            component={Link}
            to={`/p/${project.key}/mend?layer=${encodeURIComponent(layers.find((l) => l.state !== 'sound' && l.state !== 'absent')!.key)}`}
            variant="contained"
          >
            Mend {broken}
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
        <ReferencesTable project={project} layers={layers} showMap={map === null} marked={layer} />
      </Box>
      {switching && <StoredFormDialog projectKey={project.key} map={map} form={switching} onClose={() => setSwitching(null)} />}
    </Sheet>
  );
}
