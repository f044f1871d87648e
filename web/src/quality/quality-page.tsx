import { Box, Button, MenuItem, Stack, TextField, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import type { ProjectView, QualityDone, QualityRow, QualityView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useQuality } from '../api/queries.js';
import { useOpenProject } from '../frame/use-project.js';
import { sideBySide } from '../parts/side-by-side.js';
import { many } from '../parts/format.js';
import { useStartedJob } from '../parts/job-actions.js';
import { EmptyState, ErrorState, Sheet, Waiting } from '../parts/states.js';
import { useUrlState, type UrlChanges } from '../parts/use-url-state.js';
import { AsksDialog } from './asks-dialog.js';
import { QualityMatrix } from './quality-matrix.js';
import { ONLY_WORD, ORDER_WORD, rowsFor } from './quality-words.js';
import { SaveReport } from './save-report.js';
import { SheetPanel } from './sheet-panel.js';

/** What is known of the data of a project: a matrix of datasets and elements of quality, and a sheet for each. */
export function QualityPage() {
  const project = useOpenProject();
  const view = useQuality(project.key);
  const [search, set] = useUrlState();
  const check = useMutation({
    mutationFn: (body: { datasets: readonly string[]; anew: boolean }) => api.checkQuality(project.key, body),
  });
  const checking = useStartedJob(check.data);
  const words = search.get('find') ?? '';
  const only = oneOf(ONLY_WORD, search.get('only'), 'all');
  const order = oneOf(ORDER_WORD, search.get('order'), 'name');
  const known = view.data;
  const rows = useMemo(() => rowsFor(known?.rows ?? [], words, only, order), [known, words, only, order]);
  if (view.isError) return <ErrorState error={view.error} onRetry={() => void view.refetch()} />;
  if (!known) return <Waiting what="Looking which sheets there are…" />;
  const all = known.rows;
  if (all.length === 0)
    return (
      <EmptyState title="There is no data to check">
        Bring data in or link a folder. Then each dataset gets a sheet here: what can be computed of it, and what a reviewer says.
      </EmptyState>
    );
  const chosen = all.find((r) => r.id === search.get('dataset')) ?? null;
  const isBusy = checking.isRunning || check.isPending;
  return (
    <Box
      sx={{
        ...sideBySide(chosen ? 'minmax(0, 1fr) 440px' : 'minmax(0, 1fr)'),
        boxSizing: 'border-box',
        p: 1.5,
        gap: 1.5,
      }}
    >
      <Sheet sx={{ display: 'flex', flexDirection: 'column', minHeight: 0 }}>
        <Stack direction="row" sx={{ gap: 1, p: 1, alignItems: 'center', flexWrap: 'wrap' }}>
          <Typography variant="h1" sx={{ px: 0.5 }}>
            Quality
          </Typography>
          <Narrow words={words} only={only} order={order} onChange={set} />
          <Asks project={project} view={known} />
          <SaveReport projectKey={project.key} dataset={null} disabled={all.every((r) => r.state === 'none')} />
          <CheckButton rows={rows} isSome={rows.length < all.length} isBusy={isBusy} job={checking.job} onCheck={check.mutate} />
        </Stack>
        <Checking {...checking} error={check.error} shown={rows.length} all={all.length} />
        <Typography variant="body2" sx={{ px: 1.5, pb: 0.5, color: known.asks.problem ? 'var(--plum)' : 'var(--soft)' }}>
          {askedWords(known)}
        </Typography>
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
          isChecking={isBusy}
          onCheck={() => check.mutate({ datasets: [chosen.id], anew: true })}
          onClose={() => set({ dataset: null })}
        />
      )}
    </Box>
  );
}

interface NarrowProps {
  readonly words: string;
  readonly only: keyof typeof ONLY_WORD;
  readonly order: keyof typeof ORDER_WORD;
  readonly onChange: (changes: UrlChanges) => void;
}

/** Words, sort and order of the datasets that are shown. */
const Narrow = ({ words, only, order, onChange }: NarrowProps) => (
  <>
    <TextField
      placeholder="Find datasets"
      value={words}
      onChange={(e) => onChange({ find: e.target.value })}
      slotProps={{ htmlInput: { 'aria-label': 'Find datasets' } }}
      sx={{ flex: '1 1 160px', minWidth: 130 }}
    />
    <Choice
      label="Which datasets"
      words={ONLY_WORD}
      value={only}
      width={150}
      onChange={(v) => onChange({ only: v === 'all' ? null : v })}
    />
    <Choice label="Order" words={ORDER_WORD} value={order} width={140} onChange={(v) => onChange({ order: v === 'name' ? null : v })} />
  </>
);

/** What an address names, where it is one of these. */
const oneOf = <T extends string>(words: Readonly<Record<T, string>>, named: string | null, otherwise: T): T =>
  named !== null && Object.hasOwn(words, named) ? (named as T) : otherwise;

interface ChoiceProps<T extends string> {
  readonly label: string;
  readonly words: Readonly<Record<T, string>>;
  readonly value: T;
  readonly width: number;
  readonly onChange: (value: T) => void;
}

function Choice<T extends string>({ label, words, value, width, onChange }: ChoiceProps<T>) {
  return (
    <TextField
      select
      value={value}
      onChange={(e) => onChange(e.target.value as T)}
      slotProps={{ select: { 'aria-label': label } }}
      sx={{ width }}
    >
      {Object.entries<string>(words).map(([name, word]) => (
        <MenuItem key={name} value={name}>
          {word}
        </MenuItem>
      ))}
    </TextField>
  );
}

/** What the project asks of its data, to be changed. */
function Asks({ project, view }: { project: ProjectView; view: QualityView }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <>
      <Button variant="outlined" onClick={() => setOpen(true)}>
        Ask for…
      </Button>
      {isOpen && <AsksDialog project={project} rows={view.rows} asks={view.asks} onClose={() => setOpen(false)} />}
    </>
  );
}

interface CheckButtonProps {
  readonly rows: readonly QualityRow[];
  /** Only some of all datasets are shown: only they are meant. */
  readonly isSome: boolean;
  readonly isBusy: boolean;
  readonly job: Checked['job'];
  readonly onCheck: (body: { datasets: readonly string[]; anew: boolean }) => void;
}
type Checked = ReturnType<typeof useStartedJob<'quality'>>;

function CheckButton({ rows, isSome, isBusy, job, onCheck }: CheckButtonProps) {
  if (isBusy && job)
    return (
      <Button variant="outlined" onClick={() => void api.cancelJob(job.id)}>
        Stop checking
      </Button>
    );
  const unknown = rows.filter((r) => r.state === 'none' || r.state === 'out-of-date');
  return (
    <Button
      variant="contained"
      disabled={isBusy || unknown.length === 0}
      onClick={() => onCheck({ datasets: isSome ? unknown.map((r) => r.id) : [], anew: false })}
    >
      {checkWords(unknown.length, isSome)}
    </Button>
  );
}

/** How far the checking is, what came of it, and what could not be checked. */
function Checking({
  job,
  isRunning,
  result,
  error,
  shown,
  all,
}: Pick<Checked, 'job' | 'isRunning' | 'result'> & { error: unknown; shown: number; all: number }) {
  return (
    <>
      <Typography variant="body2" color="text.secondary" role="status" sx={{ px: 1.5, pb: 0.5 }}>
        {isRunning && job
          ? `Checking: ${job.item.slice(job.item.lastIndexOf('/') + 1)}`
          : result
            ? doneWords(result)
            : `${many(shown, 'dataset')}${shown < all ? ` of ${all}` : ''}`}
      </Typography>
      {error !== null && <ErrorState error={error} />}
      {job?.state === 'failed' && <Typography sx={{ px: 1.5, color: 'var(--plum)' }}>{job.message}</Typography>}
      {result?.failed.map((f) => (
        <Typography key={f.dataset} variant="body2" sx={{ px: 1.5, color: 'var(--plum)' }}>
          {f.why}
        </Typography>
      ))}
    </>
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
