import { Box, Button, Stack, Typography } from '@mui/material';
import { useQueries } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api } from '../api/client.js';
import { keys, useJournal, useProjects } from '../api/queries.js';
import { bytes, many, number } from '../parts/format.js';
import { Sheet } from '../parts/states.js';
import { KINDS } from './kinds.js';

/** Trash is looked into for so many projects: each is a look at a disk. */
const MOST_PROJECTS = 8;

interface Props {
  /** Only of this project. */
  readonly project: string | undefined;
  readonly kind: string | undefined;
  readonly onKind: (kind: string | null) => void;
}

/** Beside the changes: of which sort they are, and what waits in the trash of each project. */
export const JournalBeside = (props: Props) => (
  <>
    <BySort {...props} />
    <TrashOfProjects only={props.project} />
  </>
);

function BySort({ project, kind, onKind }: Props) {
  const changes = useJournal(project === undefined ? {} : { project }).data;
  const counts = new Map<string, number>();
  for (const c of changes ?? []) counts.set(c.kind, (counts.get(c.kind) ?? 0) + 1);
  const sorted = [...counts].filter(([k]) => KINDS[k] !== undefined).sort((a, b) => b[1] - a[1]);
  if (sorted.length === 0) return null;
  return (
    <Sheet sx={{ p: 2 }}>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        By sort
      </Typography>
      <Box component="ul" aria-label="Changes by sort" sx={{ m: 0, p: 0, listStyle: 'none' }}>
        {sorted.map(([k, count]) => (
          <Stack component="li" key={k} direction="row" sx={{ alignItems: 'center', borderTop: '1px solid var(--rule)' }}>
            <Button
              size="small"
              aria-pressed={kind === k}
              onClick={() => onKind(kind === k ? null : k)}
              sx={{ flex: 1, justifyContent: 'flex-start', ml: -0.5, ...(kind === k ? { bgcolor: 'var(--spruce-wash)' } : {}) }}
            >
              {KINDS[k]}
            </Button>
            <Typography component="span" variant="body2" className="mono">
              {number(count)}
            </Typography>
          </Stack>
        ))}
      </Box>
    </Sheet>
  );
}

function TrashOfProjects({ only }: { only: string | undefined }) {
  const present = (useProjects().data ?? []).filter((p) => p.present);
  const projects = present.filter((p) => only === undefined || p.key === only).slice(0, MOST_PROJECTS);
  const trash = useQueries({ queries: projects.map(({ key }) => ({ queryKey: keys.of(key, 'trash'), queryFn: () => api.trash(key) })) });
  return (
    <Sheet sx={{ p: 2 }}>
      <Typography variant="h2">In the trash</Typography>
      <Typography variant="body2" color="text.secondary" sx={{ mb: 0.5 }}>
        What was deleted or replaced stays with its project until its trash is emptied.
      </Typography>
      <Box component="ul" aria-label="Trash of the projects" sx={{ m: 0, p: 0, listStyle: 'none' }}>
        {projects.map((p, i) => (
          <Stack
            component="li"
            key={p.key}
            direction="row"
            spacing={1}
            sx={{ alignItems: 'baseline', py: 0.5, borderTop: '1px solid var(--rule)' }}
          >
            <Box sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
              <Link to={`/p/${p.key}/folders?view=space`}>{p.title}</Link>
            </Box>
            <Typography component="span" variant="body2" color="text.secondary">
              {trashWords(trash[i])}
            </Typography>
          </Stack>
        ))}
      </Box>
    </Sheet>
  );
}

function trashWords(
  asked: { readonly data?: readonly { readonly bytes: number; readonly count: number }[]; readonly isError: boolean } | undefined,
) {
  if (asked?.isError) return 'not known';
  if (!asked?.data) return '…';
  const count = asked.data.reduce((n, t) => n + t.count, 0);
  const sum = asked.data.reduce((n, t) => n + t.bytes, 0);
  return count === 0 ? 'empty' : `${many(count, 'file or folder', 'files and folders')}, ${bytes(sum)}`;
}
