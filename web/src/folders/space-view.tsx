import { Box, Button, Checkbox, Stack, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import type { EditRequest, FoldersView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useHousekeeping } from '../api/queries.js';
import { useOpenProject } from '../frame/use-project.js';
import { bytes, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Sheet, Waiting } from '../parts/states.js';
import { useToggled } from '../parts/use-toggled.js';
import { EditDialog } from './edit-dialog.js';
import { FinishDialog } from './finish-dialog.js';
import { trash } from './moves.js';
import { TrashCard } from './trash-card.js';
import { SpaceChart } from './space-chart.js';
import { leftBehind, sumsBy, unusedData, type By } from './space-sums.js';
import { useStartedJob } from '../parts/job-actions.js';

interface Item {
  readonly path: string;
  readonly bytes: number;
  readonly note: string;
}

/** Where the bytes are, and what could go: each list with a safe way to do it. */
export function SpaceView({ projectKey, view }: { projectKey: string; view: FoldersView }) {
  const project = useOpenProject();
  const [by, setBy] = useState<By>('folder');
  const [edit, setEdit] = useState<EditRequest | null>(null);
  const sums = useMemo(() => sumsBy(view, by), [view, by]);
  const remove = (paths: readonly string[]): void => setEdit(trash(project, paths));
  return (
    <Box
      sx={{
        height: '100%',
        overflow: 'auto',
        display: 'grid',
        gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(340px, 5fr) 7fr' },
        gap: 1.5,
        alignItems: 'start',
      }}
    >
      <Stack spacing={1.5}>
        <Sheet sx={{ p: 2 }}>
          <Stack direction="row" sx={{ alignItems: 'center', justifyContent: 'space-between', mb: 1 }}>
            <Typography variant="h2">Where the bytes are</Typography>
            <ToggleButtonGroup size="small" exclusive value={by} onChange={(_, v: By | null) => v && setBy(v)} aria-label="Summed by">
              <ToggleButton value="folder">folder</ToggleButton>
              <ToggleButton value="kind">kind</ToggleButton>
              <ToggleButton value="role">role</ToggleButton>
            </ToggleButtonGroup>
          </Stack>
          <SpaceChart sums={sums} label={`Bytes by ${by}`} />
        </Sheet>
        <TrashCard projectKey={projectKey} view={view} />
        <FinishCard projectKey={projectKey} view={view} />
      </Stack>
      <Stack spacing={1.5}>
        <Tidy
          title="No map uses"
          none="Every dataset is drawn on by some layer."
          warning={
            project.totals.adrift > 0
              ? `${many(project.totals.adrift, 'layer')} ${project.totals.adrift === 1 ? 'is' : 'are'} adrift: mend first, or what they need counts as unused.`
              : null
          }
          items={unusedData(view).map((t) => ({ path: t.path, bytes: t.bytes, note: t.format }))}
          readOnly={view.readOnly}
          onRemove={remove}
        />
        <Equal projectKey={projectKey} view={view} onRemove={remove} />
        <Kept projectKey={projectKey} isReadOnly={view.readOnly} onRemove={remove} />
        <Tidy
          title="Left-behind companions"
          none="No companion without its main file."
          items={leftBehind(view).map((t) => ({ path: t.path, bytes: t.bytes, note: 'its main file is gone' }))}
          readOnly={view.readOnly}
          onRemove={remove}
        />
      </Stack>
      {edit && (
        <EditDialog
          projectKey={projectKey}
          title="Delete, into the trash"
          edit={edit}
          button="Move to the trash"
          onClose={() => setEdit(null)}
        />
      )}
    </Box>
  );
}

function FinishCard({ projectKey, view }: { projectKey: string; view: FoldersView }) {
  const [finishing, setFinishing] = useState(false);
  return (
    <Sheet sx={{ p: 2 }}>
      <Typography variant="h2">{view.status === 'finished' ? 'This project is finished' : 'Finish the project'}</Typography>
      <Typography variant="body2" color="text.secondary" sx={{ my: 0.5 }}>
        {view.status === 'finished'
          ? 'It was bundled and its links were dropped. The journal can take that back.'
          : 'Makes a bundle and reads it back, then drops the links to shared folders and marks the project done.'}
      </Typography>
      {view.status === 'open' && view.isProject && (
        <Button variant="outlined" disabled={view.readOnly} onClick={() => setFinishing(true)}>
          Finish it…
        </Button>
      )}
      {finishing && <FinishDialog projectKey={projectKey} onClose={() => setFinishing(false)} />}
    </Sheet>
  );
}

interface KeptProps {
  readonly projectKey: string;
  readonly isReadOnly: boolean;
  readonly onRemove: (paths: readonly string[]) => void;
}

/** What can be had again: from what stands beside it, or from its address. */
function Kept({ projectKey, isReadOnly, onRemove }: KeptProps) {
  const keeping = useHousekeeping(projectKey);
  if (keeping.isError) return <ErrorState error={keeping.error} onRetry={() => void keeping.refetch()} />;
  if (!keeping.data) return <Waiting what="Looking into archives and origin records…" />;
  return (
    <>
      <Tidy
        title="Archives already unpacked"
        none="No archive whose content stands beside it."
        items={keeping.data.unpacked.map((u) => ({
          path: u.path,
          bytes: u.bytes,
          note: `its ${many(u.files, 'file')} ${u.files === 1 ? 'stands' : 'stand'} in ${u.where || 'the root'}`,
        }))}
        readOnly={isReadOnly}
        onRemove={onRemove}
      />
      <Tidy
        title="Can be fetched again"
        none="No origin record names an address to fetch data from."
        items={keeping.data.fetchable.map((f) => ({ path: f.path, bytes: f.bytes, note: f.address }))}
        readOnly={isReadOnly}
        onRemove={onRemove}
      />
    </>
  );
}

interface TidyProps {
  readonly title: string;
  readonly none: string;
  readonly items: readonly Item[];
  readonly readOnly: boolean;
  readonly onRemove: (paths: readonly string[]) => void;
  readonly warning?: string | null;
}

const SHOWN = 200;

function Tidy({ title, none, items, readOnly, onRemove, warning = null }: TidyProps) {
  const [ticked, flip] = useToggled();
  const chosen = items.filter((i) => ticked.has(i.path));
  return (
    <Sheet sx={{ px: 2, py: 1.25 }}>
      <Box component="section" aria-label={title}>
        <Stack direction="row" sx={{ alignItems: 'center', gap: 1, minHeight: 32 }}>
          <Typography variant="h2" sx={{ flex: 1 }}>
            {title}
            {items.length > 0 && (
              <Box component="span" sx={{ color: 'var(--soft)', fontWeight: 400, fontSize: 13 }}>
                {'  '}
                {many(items.length, 'thing')}, {bytes(items.reduce((sum, i) => sum + i.bytes, 0))}
              </Box>
            )}
          </Typography>
          {items.length > 0 && (
            <Button color="error" disabled={chosen.length === 0 || readOnly} onClick={() => onRemove(chosen.map((c) => c.path))}>
              {chosen.length === 0 ? 'Delete' : `Delete ${chosen.length} (${bytes(chosen.reduce((sum, c) => sum + c.bytes, 0))})`}
            </Button>
          )}
        </Stack>
        {warning && items.length > 0 && (
          <Typography variant="body2" sx={{ color: 'var(--plum)' }}>
            {warning}
          </Typography>
        )}
        {items.length === 0 ? (
          <Typography variant="body2" color="text.secondary">
            {none}
          </Typography>
        ) : (
          <Box sx={{ maxHeight: 190, overflow: 'auto' }}>
            {items.slice(0, SHOWN).map((i) => (
              <Box
                key={i.path}
                component="label"
                sx={{ display: 'grid', gridTemplateColumns: '30px 1fr auto', alignItems: 'center', fontSize: 13 }}
              >
                <Checkbox size="small" sx={{ p: 0.25 }} checked={ticked.has(i.path)} onChange={() => flip(i.path)} />
                <Box sx={{ minWidth: 0, overflow: 'hidden', whiteSpace: 'nowrap', textOverflow: 'ellipsis' }}>
                  <PathText path={i.path} most={44} />{' '}
                  <Box component="span" sx={{ color: 'var(--soft)' }}>
                    {i.note}
                  </Box>
                </Box>
                <span>{bytes(i.bytes)}</span>
              </Box>
            ))}
            {items.length > SHOWN && <Typography variant="body2">… and {items.length - SHOWN} more, smaller ones.</Typography>}
          </Box>
        )}
      </Box>
    </Sheet>
  );
}

/** Equal byte for byte: asked for, since every file of one size has to be read. */
function Equal({ projectKey, view, onRemove }: { projectKey: string; view: FoldersView; onRemove: (paths: readonly string[]) => void }) {
  const start = useMutation({ mutationFn: () => api.duplicates(projectKey) });
  const { job, result: found } = useStartedJob(start.data);
  const uses = useMemo(() => new Map(view.things.map((t) => [t.path, t.usedBy])), [view.things]);
  if (found && found.groups.length > 0) {
    const items = found.groups.flatMap((g) => {
      const paths = g.paths.filter((p) => uses.has(p)); // what was deleted since is no longer offered
      const kept = [...paths].sort((a, b) => (uses.get(b) ?? 0) - (uses.get(a) ?? 0) || a.length - b.length)[0];
      return paths.filter((p) => p !== kept).map((path) => ({ path, bytes: g.bytes, note: `equal to ${kept}, which stays` }));
    });
    return (
      <Tidy
        title="Equal byte for byte"
        none="No two things are equal any more."
        items={items}
        readOnly={view.readOnly}
        onRemove={onRemove}
      />
    );
  }
  return (
    <Sheet sx={{ px: 2, py: 1.25 }}>
      <Stack direction="row" sx={{ alignItems: 'center', gap: 1, minHeight: 32 }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h2">Equal byte for byte</Typography>
          <Typography variant="body2" color="text.secondary" role="status">
            {job?.state === 'running'
              ? `${bytes(job.done)} of ${bytes(job.of)} compared`
              : job?.state === 'failed' || job?.state === 'cancelled'
                ? (job.message ?? 'Stopped.')
                : found
                  ? 'No two things are equal.'
                  : 'Reads what has one size and compares it.'}
          </Typography>
          {start.isError && <ErrorState error={start.error} />}
        </Box>
        {job?.state === 'running' ? (
          <Button onClick={() => void api.cancelJob(job.id)}>Stop</Button>
        ) : (
          <Button variant="outlined" onClick={() => start.mutate()}>
            Look for equal ones
          </Button>
        )}
      </Stack>
    </Sheet>
  );
}
