import { Box, Button, MenuItem, Stack, TextField, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import type { QualityDone, QualityView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useQuality } from '../api/queries.js';
import { useOpenProject } from '../frame/use-project.js';
import { many } from '../parts/format.js';
import { useStartedJob } from '../parts/job-actions.js';
import { EmptyState, ErrorState, Sheet, Waiting } from '../parts/states.js';
import { useUrlState } from '../parts/use-url-state.js';
import { AsksDialog } from './asks-dialog.js';
import { QualityMatrix } from './quality-matrix.js';
import { ONLY_WORD, ORDER_WORD, rowsFor, type Only, type Order } from './quality-words.js';
import { SaveReport } from './save-report.js';
import { SheetPanel } from './sheet-panel.js';

/** What is known of the data of a project: a matrix of datasets and elements of quality, and a sheet for each. */
export function QualityPage() {
  const project = useOpenProject();
  const view = useQuality(project.key);
  const [search, set] = useUrlState();
  const [isAsking, setAsking] = useState(false);
  const check = useMutation({
    mutationFn: (body: { datasets: readonly string[]; anew: boolean }) => api.checkQuality(project.key, body),
  });
  const { job, isRunning, result } = useStartedJob(check.data);
  const [words, only, order] = [search.get('find') ?? '', (search.get('only') ?? 'all') as Only, (search.get('order') ?? 'name') as Order];
  const all = view.data?.rows;
  const rows = useMemo(() => rowsFor(all ?? [], words, only, order), [all, words, only, order]);
  if (view.isError) return <ErrorState error={view.error} onRetry={() => void view.refetch()} />;
  if (!all) return <Waiting what="Looking which sheets there are…" />;
  const chosen = all.find((r) => r.id === search.get('dataset')) ?? null;
  const isSome = rows.length < all.length;
  const unknown = rows.filter((r) => r.state === 'none' || r.state === 'out-of-date');
  const checkAll = (
    <Button
      variant="contained"
      disabled={isRunning || check.isPending || unknown.length === 0}
      onClick={() => check.mutate({ datasets: isSome ? unknown.map((r) => r.id) : [], anew: false })}
    >
      {checkWords(unknown.length, isSome)}
    </Button>
  );
  if (all.length === 0)
    return (
      <EmptyState title="There is no data to check">
        Bring data in or link a folder. Then each dataset gets a sheet here: what can be computed of it, and what a reviewer says.
      </EmptyState>
    );
  return (
    <Box
      sx={{
        height: '100%',
        boxSizing: 'border-box',
        p: 1.5,
        display: 'grid',
        gridTemplateColumns: chosen ? 'minmax(0, 1fr) 440px' : 'minmax(0, 1fr)',
        gap: 1.5,
      }}
    >
      <Sheet sx={{ display: 'flex', flexDirection: 'column', minHeight: 0 }}>
        <Stack direction="row" sx={{ gap: 1, p: 1, alignItems: 'center', flexWrap: 'wrap' }}>
          <Typography variant="h1" sx={{ px: 0.5 }}>
            Quality
          </Typography>
          <TextField
            placeholder="Find datasets"
            value={words}
            onChange={(e) => set({ find: e.target.value })}
            slotProps={{ htmlInput: { 'aria-label': 'Find datasets' } }}
            sx={{ flex: '1 1 160px', minWidth: 130 }}
          />
          <TextField
            select
            value={only}
            onChange={(e) => set({ only: e.target.value === 'all' ? null : e.target.value })}
            slotProps={{ select: { 'aria-label': 'Which datasets' } }}
            sx={{ width: 150 }}
          >
            {Object.entries(ONLY_WORD).map(([value, label]) => (
              <MenuItem key={value} value={value}>
                {label}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            select
            value={order}
            onChange={(e) => set({ order: e.target.value === 'name' ? null : e.target.value })}
            slotProps={{ select: { 'aria-label': 'Order' } }}
            sx={{ width: 140 }}
          >
            {Object.entries(ORDER_WORD).map(([value, label]) => (
              <MenuItem key={value} value={value}>
                {label}
              </MenuItem>
            ))}
          </TextField>
          <Button variant="outlined" onClick={() => setAsking(true)}>
            Ask for…
          </Button>
          <SaveReport projectKey={project.key} dataset={null} disabled={all.every((r) => r.state === 'none')} />
          {isRunning && job ? (
            <Button variant="outlined" onClick={() => void api.cancelJob(job.id)}>
              Stop checking
            </Button>
          ) : (
            checkAll
          )}
        </Stack>
        <Typography variant="body2" color="text.secondary" role="status" sx={{ px: 1.5, pb: 0.5 }}>
          {isRunning && job
            ? `Checking: ${job.item.slice(job.item.lastIndexOf('/') + 1)}`
            : result
              ? doneWords(result)
              : `${many(rows.length, 'dataset')}${rows.length < all.length ? ` of ${all.length}` : ''}`}
        </Typography>
        {(view.data?.asks.area ?? null) !== null || view.data?.asks.sheets !== 'none' ? (
          <Typography variant="body2" sx={{ px: 1.5, pb: 0.5, color: view.data?.asks.problem ? 'var(--plum)' : 'var(--soft)' }}>
            {view.data && askedWords(view.data)}
          </Typography>
        ) : null}
        {isAsking && view.data && <AsksDialog project={project} rows={all} asks={view.data.asks} onClose={() => setAsking(false)} />}
        {check.isError && <ErrorState error={check.error} />}
        {job?.state === 'failed' && <Typography sx={{ px: 1.5, color: 'var(--plum)' }}>{job.message}</Typography>}
        {result?.failed.map((f) => (
          <Typography key={f.dataset} variant="body2" sx={{ px: 1.5, color: 'var(--plum)' }}>
            {f.why}
          </Typography>
        ))}
        {rows.length === 0 ? (
          <Typography color="text.secondary" sx={{ p: 2 }}>
            No dataset is so.
          </Typography>
        ) : (
          <QualityMatrix rows={rows} chosen={chosen} onChoose={(id) => set({ dataset: id }, { step: true })} />
        )}
      </Sheet>
      {chosen && (
        <SheetPanel
          key={chosen.id}
          project={project}
          row={chosen}
          all={all}
          isChecking={isRunning || check.isPending}
          onCheck={() => check.mutate({ datasets: [chosen.id], anew: true })}
          onClose={() => set({ dataset: null })}
        />
      )}
    </Box>
  );
}

function askedWords({ rows, asks }: QualityView): string {
  const area = rows.find((r) => r.id === asks.area)?.name;
  const words = [
    ...(asks.problem === null ? [] : [asks.problem]),
    ...(area === undefined ? [] : [`The project is about the area of ${area}.`]),
    ...(asks.sheets === 'none'
      ? []
      : [`Before it is sent every dataset has to be ${asks.sheets === 'computed' ? 'checked' : 'reviewed'}.`]),
  ];
  return words.join(' ');
}

function checkWords(n: number, isSome: boolean): string {
  if (!isSome) return n === 0 ? 'All is checked' : `Check ${many(n, 'dataset')}`;
  return n === 0 ? 'These are checked' : n === 1 ? 'Check this one' : `Check these ${n}`;
}

function doneWords({ checked, known, failed, change }: QualityDone): string {
  const words = [
    `${many(checked, 'dataset')} checked`,
    ...(known > 0 ? [`${known} known already`] : []),
    ...(failed.length > 0 ? [`${failed.length} could not be`] : []),
  ];
  return `${words.join(', ')}${change ? '; the sheets stand beside the data' : ''}.`;
}
