import { Box, Button, Stack, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { PathRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useProjects } from '../api/queries.js';
import { EmptyState, ErrorState, Waiting } from '../parts/states.js';
import { ProjectTable } from './project-table.js';

const FolderChooser = lazy(() => import('../parts/folder-chooser.js').then((m) => ({ default: m.FolderChooser })));

/** All projects, and the ways to come to one. */
export function StartPage() {
  const projects = useProjects();
  const navigate = useNavigate();
  const [choosing, setChoosing] = useState(false);
  const open = useMutation({
    mutationFn: (at: PathRequest) => api.openProject(at),
    onSuccess: ({ key }) => navigate(`/p/${key}/overview`),
  });
  const actions = (
    <Stack direction="row" spacing={1}>
      <Button variant="contained" component={Link} to="/new">
        New project
      </Button>
      <Button variant="outlined" onClick={() => setChoosing(true)}>
        Open a folder
      </Button>
      <Button variant="outlined" component={Link} to="/receive">
        Receive a bundle
      </Button>
      <Button component={Link} to="/mend">
        Mend all projects
      </Button>
      <Button component={Link} to="/places">
        Places
      </Button>
    </Stack>
  );
  return (
    <Box sx={{ p: 3, overflow: 'auto' }}>
      <Stack direction="row" sx={{ mb: 2, alignItems: 'center', justifyContent: 'space-between' }}>
        <Typography variant="h1">Projects</Typography>
        {actions}
      </Stack>
      {open.isError && <ErrorState error={open.error} />}
      {projects.isError ? (
        <ErrorState error={projects.error} onRetry={() => void projects.refetch()} />
      ) : !projects.data ? (
        <Waiting what="Reading the list of projects…" />
      ) : projects.data.length === 0 ? (
        <EmptyState
          title="No project yet"
          action={
            <Button variant="contained" onClick={() => setChoosing(true)}>
              Open a folder
            </Button>
          }
        >
          Open the folder that holds a job: Root Map finds its maps and data, and shows which layers have lost theirs. Nothing is changed by
          opening.
        </EmptyState>
      ) : (
        <ProjectTable projects={projects.data} />
      )}
      <Suspense>
        {choosing && (
          <FolderChooser
            open
            title="Open a folder"
            useFolderLabel="Open this folder"
            onClose={() => setChoosing(false)}
            onChoose={(at) => {
              setChoosing(false);
              open.mutate(at);
            }}
          />
        )}
      </Suspense>
    </Box>
  );
}
