import { Box, Button, Stack, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { PathRequest, ProjectSummary } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useProjects } from '../api/queries.js';
import { ChangesList } from '../journal/changes-list.js';
import { EmptyState, ErrorState, Waiting } from '../parts/states.js';
import { usePainted } from '../parts/use-painted.js';
import { showWays, useWaysHidden } from '../ways/use-way.js';
import { startWay, WaysIn } from '../ways/ways-in.js';
import type { Way } from '../ways/ways.js';
import { LastMaps } from './last-maps.js';
import { PlacesNow } from './places-now.js';
import { inOrder } from './project-order.js';
import { ProjectTable } from './project-table.js';

const FolderChooser = lazy(() => import('../parts/folder-chooser.js').then((m) => ({ default: m.FolderChooser })));

/** All projects, the ways to come to one, and what is around them: places, and what was changed last. */
export function StartPage() {
  const projects = useProjects();
  const navigate = useNavigate();
  const areWaysHidden = useWaysHidden();
  /** A folder is being chosen; `way`: the way that goes on in it. */
  const [choosing, setChoosing] = useState<{ readonly way: Way | null } | null>(null);
  const open = useMutation({
    mutationFn: ({ at }: { readonly at: PathRequest; readonly way: Way | null }) => api.openProject(at),
    onSuccess: ({ key }, { way }) => navigate(way ? startWay(way, projects.data ?? [], key) : `/p/${key}/overview`),
  });
  const list = projects.data ?? [];
  return (
    <Box sx={{ p: { xs: 1.5, md: 3 }, overflow: 'auto' }}>
      <Stack direction="row" useFlexGap spacing={1} sx={{ mb: 2, alignItems: 'center', flexWrap: 'wrap' }}>
        <Typography variant="h1" sx={{ flex: 1, mr: 2 }}>
          Projects
        </Typography>
        <Button variant="contained" component={Link} to="/new">
          New project
        </Button>
        <Button variant="outlined" onClick={() => setChoosing({ way: null })}>
          Open a folder
        </Button>
        <Button variant="outlined" component={Link} to="/receive">
          Receive a bundle
        </Button>
        <Button component={Link} to="/mend">
          Mend all projects
        </Button>
        {areWaysHidden && <Button onClick={showWays}>Ways in</Button>}
      </Stack>
      {open.isError && <ErrorState error={open.error} />}
      {projects.data && !areWaysHidden && <WaysIn projects={list} onOpenFolder={(way) => setChoosing({ way })} />}
      {projects.isError ? (
        <ErrorState error={projects.error} onRetry={() => void projects.refetch()} />
      ) : !projects.data ? (
        <Waiting what="Reading the list of projects…" />
      ) : list.length === 0 ? (
        <EmptyState
          title="No project yet"
          action={
            <Button variant="contained" onClick={() => setChoosing({ way: null })}>
              Open a folder
            </Button>
          }
        >
          Open the folder that holds a job: Root Map finds its maps and data, and shows which layers have lost theirs. Nothing is changed by
          opening.
        </EmptyState>
      ) : (
        <ProjectTable projects={list} />
      )}
      {projects.data && <Around projects={list} />}
      <Suspense>
        {choosing && (
          <FolderChooser
            open
            title="Open a folder"
            useFolderLabel="Open this folder"
            onClose={() => setChoosing(null)}
            onChoose={(at) => {
              setChoosing(null);
              open.mutate({ at, way: choosing.way });
            }}
          />
        )}
      </Suspense>
    </Box>
  );
}

/** Places, what was changed last, and maps: after the list of projects is there. */
function Around({ projects }: { projects: readonly ProjectSummary[] }) {
  const last = inOrder(projects, 'opened').find((p) => p.present && (p.maps ?? 0) > 0);
  if (!usePainted()) return null;
  return (
    <>
      <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', md: 'minmax(0, 2fr) minmax(0, 3fr)' }, gap: 2, mt: 2 }}>
        <PlacesNow projects={projects} />
        <ChangesList
          title="Changed last"
          empty="Nothing yet. What Root Map changes on disk is written down here first, and each change can be taken back."
        />
      </Box>
      {last && <LastMaps project={last} />}
    </>
  );
}
