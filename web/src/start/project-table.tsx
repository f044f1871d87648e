import { Box, Button, Stack, Table, TableBody, TableCell, TableHead, TableRow, TableSortLabel, TextField, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { closeSnackbar, enqueueSnackbar } from 'notistack';
import { Link } from 'react-router';
import type { LayerState } from '@rootmap/core';
import type { ProjectSummary } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { tellDone } from '../journal/tell-done.js';
import { bytes, dateTime, many, number } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { sentenceOf, Sheet, Tag } from '../parts/states.js';
import { STATE_COLOUR, Tether } from '../parts/tether.js';
import { useUrlState } from '../parts/use-url-state.js';
import { nextStep } from './next-step.js';
import { inOrder, isOrder, matches, type Order } from './project-order.js';

const COLUMNS: readonly { readonly label: string; readonly order: Order | null; readonly align?: 'right' }[] = [
  { label: 'Title', order: 'title' },
  { label: 'Place', order: 'place' },
  { label: 'Layers', order: 'broken' },
  { label: 'Size', order: 'size', align: 'right' },
  { label: 'Last change', order: 'changed' },
  { label: 'Last opened', order: 'opened' },
  { label: 'Next', order: null },
];

/** So many are seen at one glance. */
const FEW = 4;

/** All projects of the list: searched, sorted, and taken off it. */
export function ProjectTable({ projects }: { projects: readonly ProjectSummary[] }) {
  const [search, set] = useUrlState();
  const text = search.get('find') ?? '';
  const sort = search.get('sort') ?? '';
  const order = isOrder(sort) ? sort : 'opened';
  const shown = inOrder(
    projects.filter((p) => matches(p, text)),
    order,
  );
  return (
    <>
      {projects.length > FEW && (
        <TextField
          size="small"
          type="search"
          placeholder="Title, place or folder"
          value={text}
          onChange={(e) => set({ find: e.target.value })}
          slotProps={{ htmlInput: { 'aria-label': 'Find a project' } }}
          sx={{ mb: 1.5, width: 300 }}
        />
      )}
      <Sheet sx={{ overflowX: 'auto' }}>
        <Table size="small" sx={{ minWidth: 760 }}>
          <TableHead>
            <TableRow>
              {COLUMNS.map((c) => (
                <TableCell key={c.label} align={c.align ?? 'left'} sortDirection={c.order === order ? 'asc' : false}>
                  {c.order === null ? (
                    c.label
                  ) : (
                    <TableSortLabel
                      active={c.order === order}
                      direction={c.order === 'title' || c.order === 'place' ? 'asc' : 'desc'}
                      hideSortIcon
                      onClick={() => set({ sort: c.order === 'opened' ? null : c.order })}
                      sx={c.order === order ? { textDecoration: 'underline', textUnderlineOffset: 4 } : {}}
                    >
                      {c.label}
                    </TableSortLabel>
                  )}
                </TableCell>
              ))}
            </TableRow>
          </TableHead>
          <TableBody>
            {shown.map((p) => (
              <ProjectRow
                key={p.key}
                project={p}
                others={projects.filter((o) => p.isCopy && o.present && o.id === p.id && o.key !== p.key)}
              />
            ))}
          </TableBody>
        </Table>
        {shown.length === 0 && <Typography sx={{ p: 2 }}>No project of the list has “{text}” in its title, place or folder.</Typography>}
      </Sheet>
    </>
  );
}

function ProjectRow({ project: p, others }: { project: ProjectSummary; others: readonly ProjectSummary[] }) {
  const step = nextStep(p);
  return (
    <TableRow hover>
      <TableCell sx={{ maxWidth: 380 }}>
        {p.present ? (
          <Box component={Link} to={`/p/${p.key}/overview`} sx={{ color: 'var(--ink)', fontWeight: 650, fontSize: 14 }}>
            {p.title}
          </Box>
        ) : (
          <Box component="span" sx={{ color: 'var(--stone)', fontWeight: 650, fontSize: 14 }}>
            {p.title}
          </Box>
        )}{' '}
        {p.isCopy && <Copy project={p} />}
        <div>
          <PathText path={p.path} most={48} colour="var(--soft)" />
        </div>
        {others.length > 0 && (
          <Typography variant="body2" color="text.secondary">
            The same project as {others.map((o) => `${o.place}: ${o.path}`).join(', ')}
          </Typography>
        )}
        {p.cameFrom !== null && (
          <Typography variant="body2" color="text.secondary">
            Moved here from {p.cameFrom}
          </Typography>
        )}
      </TableCell>
      <TableCell>{p.place}</TableCell>
      <TableCell>{p.away !== null ? <Away project={p} /> : p.totals ? <Health totals={p.totals} /> : (p.trouble ?? 'looking…')}</TableCell>
      <TableCell align="right">{p.bytes === null ? '' : bytes(p.bytes)}</TableCell>
      <TableCell>{p.changedMs === null ? 'none yet' : dateTime(p.changedMs)}</TableCell>
      <TableCell>{dateTime(p.openedMs)}</TableCell>
      <TableCell>
        <Stack direction="row" spacing={0.5} sx={{ justifyContent: 'space-between' }}>
          {p.away === 'folder' ? (
            <LookFor project={p} />
          ) : step && p.present ? (
            <Button component={Link} to={`/p/${p.key}/${step.to}`}>
              {step.label}
            </Button>
          ) : (
            <span />
          )}
          <TakeOff project={p} />
        </Stack>
      </TableCell>
    </TableRow>
  );
}

const AWAY = {
  place: (p: ProjectSummary) => `its place ${p.place} is not here`,
  folder: () => 'its folder is gone',
  'no-place': () => 'its folder is in no place',
} as const;

const Away = ({ project: p }: { project: ProjectSummary }) => (
  <Tag tone={p.away === 'folder' ? 'plum' : 'slate'}>{p.away === null ? '' : AWAY[p.away](p)}</Tag>
);

/** One whose folder is gone is looked for in its place, by its id. */
function LookFor({ project }: { project: ProjectSummary }) {
  const client = useQueryClient();
  const find = useMutation({
    mutationFn: () => api.findProject(project.key),
    onSuccess: ({ found }) => {
      const [first, ...more] = found;
      enqueueSnackbar(
        first === undefined
          ? `${project.title} was not found in ${project.place}. Take it off the list, or put its folder back.`
          : more.length === 0
            ? `Found: ${project.title} is in ${first} now.`
            : `${many(found.length, 'folder')} have its id: ${found.join(', ')}. Open the one that is meant.`,
      );
      void client.invalidateQueries({ queryKey: keys.projects });
    },
    onError: (error) => enqueueSnackbar(sentenceOf(error), { variant: 'error' }),
  });
  return (
    <Button disabled={find.isPending} onClick={() => find.mutate()} aria-label={`Look for ${project.title}`}>
      Look for it
    </Button>
  );
}

function TakeOff({ project }: { project: ProjectSummary }) {
  const client = useQueryClient();
  const again = (): Promise<void> => client.invalidateQueries({ queryKey: keys.projects });
  const take = useMutation({
    mutationFn: () => api.closeProject(project.key),
    onSuccess: () => {
      void again();
      enqueueSnackbar(`${project.title} is off the list. Nothing on disk was touched.`, {
        action: (snack) =>
          project.present && (
            <Button
              color="inherit"
              onClick={() => {
                closeSnackbar(snack);
                void api.openProject({ place: project.place, path: project.path }).then(again);
              }}
            >
              Put it back
            </Button>
          ),
      });
    },
    onError: (error) => enqueueSnackbar(sentenceOf(error), { variant: 'error' }),
  });
  return (
    <Button color="inherit" disabled={take.isPending} onClick={() => take.mutate()} aria-label={`Take ${project.title} off the list`}>
      Take off
    </Button>
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

const BOND = { stored: 'relative', reach: 'inside' } as const;
/** States of layers in the order of what they ask for, each as the tether that the diagram draws. */
const SHOWN: readonly { readonly states: readonly LayerState[]; readonly word: string }[] = [
  { states: ['sound'], word: 'sound' },
  { states: ['adrift', 'different', 'incomplete', 'unreadable'], word: 'to mend' },
  { states: ['not-asked'], word: 'not asked' },
  { states: ['absent'], word: 'absent' },
];

function Health({ totals }: { totals: NonNullable<ProjectSummary['totals']> }) {
  return (
    <Stack direction="row" useFlexGap spacing={1.5} sx={{ flexWrap: 'wrap' }}>
      {SHOWN.map(({ states, word }) => {
        const count = states.reduce((n, s) => n + totals[s], 0);
        const state = states.find((s) => totals[s] > 0);
        if (!state) return null;
        return (
          <Box component="span" key={word} sx={{ whiteSpace: 'nowrap', color: STATE_COLOUR[state], fontWeight: 650, fontSize: 13 }}>
            <span aria-hidden>
              <Tether bond={state === 'not-asked' ? { ...BOND, reach: 'service', state } : { ...BOND, state }} />
            </span>{' '}
            {number(count)} {word}
          </Box>
        );
      })}
    </Stack>
  );
}
