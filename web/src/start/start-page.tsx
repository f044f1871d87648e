import { Box, Button, Stack, Table, TableBody, TableCell, TableHead, TableRow, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { enqueueSnackbar } from 'notistack';
import { lazy, Suspense, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { PathRequest, ProjectSummary } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useProjects } from '../api/queries.js';
import { bytes, dateTime, number } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { EmptyState, ErrorState, sentenceOf, Sheet, Tag, Waiting } from '../parts/states.js';
import { tellDone } from '../journal/tell-done.js';
import { nextStep } from './next-step.js';

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

function ProjectTable({ projects }: { projects: readonly ProjectSummary[] }) {
  return (
    <Sheet>
      <Table size="small">
        <TableHead>
          <TableRow>
            <TableCell>Title</TableCell>
            <TableCell>Place</TableCell>
            <TableCell>Layers</TableCell>
            <TableCell align="right">Size</TableCell>
            <TableCell>Last opened</TableCell>
            <TableCell>Next</TableCell>
          </TableRow>
        </TableHead>
        <TableBody>
          {projects.map((p) => (
            <ProjectRow key={p.key} project={p} />
          ))}
        </TableBody>
      </Table>
    </Sheet>
  );
}

function ProjectRow({ project: p }: { project: ProjectSummary }) {
  const step = nextStep(p);
  return (
    <TableRow hover>
      <TableCell sx={{ maxWidth: 380 }}>
        {p.present ? (
          <Box component={Link} to={`/p/${p.key}/overview`} sx={{ color: 'var(--ink)', fontWeight: 650, fontSize: 14 }}>
            {p.title}
          </Box>
        ) : (
          <Box sx={{ color: 'var(--stone)', fontWeight: 650, fontSize: 14 }}>{p.title}</Box>
        )}{' '}
        {p.isCopy && <Copy project={p} />}
        <div>
          <PathText path={p.path} most={48} colour="var(--soft)" />
        </div>
      </TableCell>
      <TableCell>{p.present ? p.place : `${p.place}, absent`}</TableCell>
      <TableCell>{p.totals ? <Health totals={p.totals} /> : 'not looked at yet'}</TableCell>
      <TableCell align="right">{p.bytes === null ? '' : bytes(p.bytes)}</TableCell>
      <TableCell>{dateTime(p.openedMs)}</TableCell>
      <TableCell>
        {step && (
          <Button component={Link} to={`/p/${p.key}/${step.to}`}>
            {step.label}
          </Button>
        )}
      </TableCell>
    </TableRow>
  );
}

/** Two roots with one id: this one can become a project of its own, so that a moved one and a copied one are not mixed up. */
function Copy({ project }: { project: ProjectSummary }) {
  const separate = useMutation({
    mutationFn: () => api.applyEdit(project.key, { kind: 'separate' }),
    onSuccess: ({ change }) => tellDone(`${project.title} is a project of its own now.`, change),
    onError: (error) => enqueueSnackbar(sentenceOf(error), { variant: 'error' }),
  });
  return (
    <>
      <Tag tone="ochre">copy</Tag>
      <Button size="small" disabled={separate.isPending} onClick={() => separate.mutate()} title="Gives this root an id of its own">
        Make it separate
      </Button>
    </>
  );
}

function Health({ totals }: { totals: NonNullable<ProjectSummary['totals']> }) {
  const broken = totals.adrift + totals.different + totals.incomplete + totals.unreadable;
  return (
    <Stack direction="row" spacing={1}>
      <Tag tone="spruce">{number(totals.sound)} sound</Tag>
      {broken > 0 && <Tag tone="plum">{number(broken)} to mend</Tag>}
      {totals.absent > 0 && <Tag tone="slate">{number(totals.absent)} absent</Tag>}
    </Stack>
  );
}
