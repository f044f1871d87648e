import { Box, Button, LinearProgress, Stack, Table, TableBody, TableCell, TableHead, TableRow, Typography } from '@mui/material';
import { useMutation, useQueries, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { MendProjectView, ProjectSummary } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, useProjects } from '../api/queries.js';
import { many } from '../parts/format.js';
import { EmptyState, ErrorState, sentenceOf, Sheet, Tag, Waiting } from '../parts/states.js';
import { bestOf } from './choices.js';
import { LoneMaps } from './lone-maps.js';

/** What is broken in every project that is here, and one button for all that is certain. */
export function AllProjectsPage() {
  const projects = useProjects();
  if (projects.isError) return <ErrorState error={projects.error} onRetry={() => void projects.refetch()} />;
  if (!projects.data) return <Waiting what="Reading the list of projects…" />;
  const present = projects.data.filter((p) => p.present);
  if (present.length === 0)
    return (
      <Box sx={{ p: 3, overflow: 'auto' }}>
        <EmptyState
          title="No project is here"
          action={
            <Button variant="contained" component={Link} to="/">
              Open a folder
            </Button>
          }
        >
          Open a project first; what is broken in it turns up here, together with all others. A map by itself is mended below.
        </EmptyState>
        <LoneMaps />
      </Box>
    );
  return <Projects projects={present} />;
}

const EVERYWHERE = { search: [], reach: 'places' } as const;

interface Explained {
  readonly project: ProjectSummary;
  readonly view: MendProjectView | undefined;
  readonly error: unknown;
}
const certainIn = (view: MendProjectView | undefined) => view?.layers.filter((l) => l.verdict === 'certain' && l.candidates[0]) ?? [];

const certainStylesIn = (view: MendProjectView | undefined) => view?.styles.filter((s) => s.verdict === 'certain') ?? [];
const parts = (layers: number, styles: number, layer = 'layer'): string =>
  [...(layers ? [many(layers, layer)] : []), ...(styles ? [many(styles, 'style')] : [])].join(' and ');

/** One change a project, so that each can be undone by itself; what fails is told in its row, and the others go on. */
function useMendAll() {
  const client = useQueryClient();
  const [told, setTold] = useState<ReadonlyMap<string, string>>(new Map());
  const run = useMutation({
    mutationFn: async (all: readonly Explained[]) => {
      for (const { project, view } of all) {
        const choices = bestOf(certainIn(view));
        const styles = certainStylesIn(view).map((s) => s.key);
        if (choices.length + styles.length === 0) continue;
        const sentence = await api.applyMend(project.key, { choices, styles, ...EVERYWHERE }).then(
          (done) => `${parts(choices.length, styles.length)} mended; ${done.left === 0 ? 'nothing is left to mend' : `${done.left} left`}.`,
          (error: unknown) => sentenceOf(error),
        );
        setTold((before) => new Map(before).set(project.key, sentence));
        await client.invalidateQueries({ queryKey: keys.project(project.key) });
      }
    },
  });
  return { run, told };
}

function Projects({ projects }: { projects: readonly ProjectSummary[] }) {
  const found = useQueries({
    queries: projects.map((p) => ({
      queryKey: keys.mend(p.key, [], 'places'),
      queryFn: ({ signal }: { signal: AbortSignal }) => api.mend(p.key, EVERYWHERE, signal),
    })),
  });
  const all = projects.map((project, i): Explained => ({ project, view: found[i]!.data, error: found[i]!.error }));
  const { run, told } = useMendAll();
  const isLooking = found.some((f) => f.isPending && f.fetchStatus === 'fetching');
  const certain = all.reduce((n, { view }) => n + certainIn(view).length, 0);
  const styles = all.reduce((n, { view }) => n + certainStylesIn(view).length, 0);
  const concerned = all.filter(({ view }) => certainIn(view).length + certainStylesIn(view).length > 0).length;
  return (
    <Box sx={{ p: 3, overflow: 'auto' }}>
      <Stack direction="row" spacing={2} sx={{ mb: 2, alignItems: 'center' }}>
        <Typography variant="h1" sx={{ flex: 1 }}>
          Mend all projects
        </Typography>
        {certain + styles > 0 && (
          <>
            <Typography variant="body2" color="text.secondary">
              One change for each project, each undone by itself
            </Typography>
            <Button variant="contained" disabled={run.isPending || isLooking} onClick={() => run.mutate(all)}>
              Mend {parts(certain, styles, 'certain layer')} in {many(concerned, 'project')}
            </Button>
          </>
        )}
      </Stack>
      {(isLooking || run.isPending) && <LinearProgress aria-label="Looking where data went" sx={{ mb: 1, height: 2 }} />}
      <Sheet>
        <Table size="small">
          <TableHead>
            <TableRow>
              <TableCell>Project</TableCell>
              <TableCell>What is wrong</TableCell>
              <TableCell>What explains it</TableCell>
              <TableCell>Proof</TableCell>
            </TableRow>
          </TableHead>
          <TableBody>
            {all.map((entry) => (
              <ProjectRow key={entry.project.key} entry={entry} told={told.get(entry.project.key) ?? null} />
            ))}
          </TableBody>
        </Table>
      </Sheet>
      <LoneMaps />
    </Box>
  );
}

const MOST_SHIFTS = 3;

function ProjectRow({ entry: { project, view, error }, told }: { entry: Explained; told: string | null }) {
  const certain = certainIn(view).length;
  return (
    <TableRow>
      <TableCell sx={{ fontWeight: 650, verticalAlign: 'top' }}>{project.title}</TableCell>
      <TableCell sx={{ verticalAlign: 'top' }}>
        {error ? (
          <span role="alert">{sentenceOf(error)}</span>
        ) : !view ? (
          'looking…'
        ) : view.layers.length + view.styles.length === 0 ? (
          'nothing to mend'
        ) : (
          <Stack direction="row" spacing={0.75} useFlexGap sx={{ flexWrap: 'wrap' }}>
            {view.layers.length > 0 && <Tag tone="plum">{many(view.layers.length, 'layer')}</Tag>}
            {view.styles.length > 0 && <Tag tone="plum">{many(view.styles.length, 'style file')}</Tag>}
            {certain > 0 && <Tag tone="spruce">{certain} certain</Tag>}
          </Stack>
        )}
        {told && (
          <Typography role="status" variant="body2">
            {told}
          </Typography>
        )}
      </TableCell>
      <TableCell sx={{ verticalAlign: 'top' }}>
        {view?.shifts.slice(0, MOST_SHIFTS).map((s) => (
          <Box key={`${s.from} ${s.to}`} className="mono" sx={{ fontSize: 12.5, overflowWrap: 'anywhere' }}>
            {s.from || 'the place itself'} → {s.to || 'the place itself'} ({many(s.layers.length, 'layer')})
          </Box>
        ))}
        {(view?.shifts.length ?? 0) > MOST_SHIFTS && (
          <Typography variant="body2" color="text.secondary">
            and {many(view!.shifts.length - MOST_SHIFTS, 'further explanation')}
          </Typography>
        )}
      </TableCell>
      <TableCell sx={{ verticalAlign: 'top' }}>
        {view && view.layers.length + view.styles.length > 0 && (
          <Button component={Link} to={`/p/${project.key}/mend`} aria-label={`Look at the proof in ${project.title}`}>
            Look at it
          </Button>
        )}
      </TableCell>
    </TableRow>
  );
}
