import {
  Box,
  Button,
  Checkbox,
  Dialog,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  LinearProgress,
  TextField,
  Typography,
} from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { useNavigate } from 'react-router';
import type { EditRequest, ImportDone, ImportPlanItem, ImportRequest, ProjectView, ShapePart } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { EditDialog } from '../folders/edit-dialog.js';
import { inRoot } from '../folders/moves.js';
import { useSettled } from '../folders/use-edit.js';
import { kindWord, many, number } from '../parts/format.js';
import { JobActions, SkippedList, useStartedJob } from '../parts/job-actions.js';
import { ErrorState } from '../parts/states.js';
import { sendFiles } from '../sources/send-files.js';
import { useToggled } from '../parts/use-toggled.js';

interface Props {
  readonly project: ProjectView;
  /** Path of the geodatabase from the root. */
  readonly into: string;
  readonly onClose: () => void;
}

/** A queue of datasets: which table each becomes, what is changed on the way, and afterwards a receipt for each. */
export function ImportDialog({ project, into, onClose }: Props) {
  const [queue, flip] = useToggled();
  const [names, setNames] = useState<Readonly<Record<string, string>>>({});
  const [words, setWords] = useState('');
  const [isOneCrs, setOneCrs] = useState(false);
  const [makesValid, setMakesValid] = useState(false);
  /** Datasets whose kinds of shapes each get a table. */
  const [split, setSplit] = useState<Readonly<Record<string, readonly ShapePart[] | null>>>({});
  const offered = project.datasets.filter(
    (d) =>
      d.kind !== 'opaque' &&
      `${d.folder}/${d.name}`.toLowerCase().includes(words.trim().toLowerCase()) &&
      !d.id.startsWith(`${project.root}/${into}#`),
  );
  const asked = useMemo((): ImportRequest | null => {
    if (queue.size === 0) return null;
    const items = [...queue].flatMap((dataset) =>
      (split[dataset] ?? [null]).map((part) => ({ dataset, part, table: names[keyOf(dataset, part)]?.trim() ?? '' })),
    );
    return { into: inRoot(project, into), items, crs: isOneCrs ? project.crs : null, makesValid };
  }, [queue, split, names, isOneCrs, makesValid, project, into]);
  const request = useSettled(asked);
  const plan = useQuery({
    queryKey: ['project', project.key, 'import', request],
    queryFn: () => api.planImport(project.key, request!),
    enabled: request !== null,
    placeholderData: (before) => before,
    retry: false,
    gcTime: 0,
  });
  const start = useMutation({ mutationFn: (body: ImportRequest) => api.startImport(project.key, body) });
  const { job, isRunning, result: done } = useStartedJob(start.data);
  const arrivals = useArrivals();
  const planned = queue.size === 0 ? [] : (plan.data?.items ?? []).filter((i) => queue.has(i.dataset));
  const ready = planned.filter((i) => i.why === null).length;
  return (
    <Dialog open onClose={isRunning ? undefined : onClose} maxWidth="lg" fullWidth aria-labelledby="import-title">
      <DialogTitle id="import-title" variant="h2">
        Bring data into {into.slice(into.lastIndexOf('/') + 1)}
      </DialogTitle>
      <DialogContent>
        {done ? (
          <Receipts project={project} done={done} />
        ) : (
          <Box sx={{ display: 'grid', gridTemplateColumns: '320px minmax(0, 1fr)', gap: 2, minHeight: 360 }}>
            <Box
              {...arrivals.zone.getRootProps({ role: 'group', 'aria-label': 'Choose datasets, or drop files' })}
              sx={{ borderRadius: 1, bgcolor: arrivals.zone.isDragActive ? 'var(--ochre-wash)' : undefined }}
            >
              <input {...arrivals.zone.getInputProps({ 'aria-label': 'Files for the geodatabase' })} />
              <TextField
                fullWidth
                placeholder="Find a dataset…"
                value={words}
                onChange={(e) => setWords(e.target.value)}
                slotProps={{ htmlInput: { 'aria-label': 'Find a dataset' } }}
              />
              <Box role="group" aria-label="Datasets" tabIndex={0} sx={{ maxHeight: 290, overflow: 'auto', mt: 1 }}>
                {offered.slice(0, 300).map((d) => (
                  <FormControlLabel
                    key={d.id}
                    control={<Checkbox size="small" checked={queue.has(d.id)} onChange={() => flip(d.id)} sx={{ p: 0.5 }} />}
                    label={<span className="mono">{d.name}</span>}
                    sx={{
                      display: 'flex',
                      m: 0,
                      '& .MuiFormControlLabel-label': { fontSize: 13, overflow: 'hidden', textOverflow: 'ellipsis' },
                    }}
                  />
                ))}
              </Box>
              <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }} role="status">
                {arrivals.sending ?? 'Files dropped here come into the project first, with their origin.'}{' '}
                <Button size="small" onClick={arrivals.zone.open}>
                  Choose files
                </Button>
              </Typography>
              {arrivals.error !== null && <ErrorState error={arrivals.error} />}
            </Box>
            <Box>
              {project.crs && (
                <FormControlLabel
                  control={<Checkbox size="small" checked={isOneCrs} onChange={(e) => setOneCrs(e.target.checked)} />}
                  label={`Compute all coordinates in the project's ${project.crs}`}
                />
              )}
              <FormControlLabel
                control={<Checkbox size="small" checked={makesValid} onChange={(e) => setMakesValid(e.target.checked)} />}
                label="Make areas valid whose outlines cross themselves"
              />
              {planned.length === 0 && (
                <Typography color="text.secondary">Choose datasets on the left: each becomes a table, and the originals stay.</Typography>
              )}
              {planned.map((item) => (
                <Item
                  key={keyOf(item.dataset, item.part)}
                  item={item}
                  isFirst={planned.find((p) => p.dataset === item.dataset) === item}
                  name={names[keyOf(item.dataset, item.part)] ?? item.table}
                  onName={(n) => setNames((before) => ({ ...before, [keyOf(item.dataset, item.part)]: n }))}
                  onSplit={(parts) => setSplit((before) => ({ ...before, [item.dataset]: parts }))}
                />
              ))}
              {planned.length > 0 && (plan.data?.named ?? 0) > 0 && (
                <Typography variant="body2" sx={{ mt: 1 }}>
                  {many(plan.data!.named, 'layer')} that {plan.data!.named === 1 ? 'means' : 'mean'} its only table will say so by name.
                </Typography>
              )}
              {(plan.isError || start.isError) && <ErrorState error={start.error ?? plan.error} />}
              {job?.state === 'failed' && <Typography color="error">{job.message}</Typography>}
              {isRunning && (
                <>
                  <LinearProgress
                    aria-label="Bringing data in"
                    sx={{ mt: 1 }}
                    {...(job && job.of > 0 ? { variant: 'determinate', value: (100 * job.done) / job.of } : {})}
                  />
                  <Typography variant="body2">{job?.item}</Typography>
                </>
              )}
            </Box>
          </Box>
        )}
      </DialogContent>
      <JobActions job={job} isRunning={isRunning} isDone={done !== null} onClose={onClose}>
        <Button
          variant="contained"
          disabled={ready === 0 || isRunning || start.isPending || request !== asked || plan.isFetching}
          onClick={() => request && start.mutate(request)}
        >
          Bring in {many(ready, planned.some((i) => i.part !== null) ? 'table' : 'dataset')}
        </Button>
      </JobActions>
    </Dialog>
  );
}

/** What is dropped goes to Sources, which looks at it and brings it in: a geodatabase is filled from what the project has. */
function useArrivals() {
  const navigate = useNavigate();
  const [sending, setSending] = useState<string | null>(null);
  const [error, setError] = useState<unknown>(null);
  const send = async (files: readonly File[]): Promise<void> => {
    const ids: string[] = [];
    try {
      await sendFiles(
        files,
        (file) => setSending(`Taking ${file.name} …`),
        (id) => ids.push(id),
      );
      await navigate(`../sources?view=intake&arrivals=${ids.join(',')}`, { relative: 'path' });
    } catch (problem) {
      setError(problem);
    } finally {
      setSending(null);
    }
  };
  const zone = useDropzone({ onDrop: (files) => void send(files), noKeyboard: true, noClick: true });
  return { zone, sending, error };
}

/** A dataset, or one kind of its shapes. */
const keyOf = (dataset: string, part: ShapePart | null): string => (part === null ? dataset : `${dataset} ${part}`);

interface ItemProps {
  readonly item: ImportPlanItem;
  /** The first of its dataset. */
  readonly isFirst: boolean;
  readonly name: string;
  readonly onName: (name: string) => void;
  /** Null: all kinds of its shapes go into one table. */
  readonly onSplit: (parts: readonly ShapePart[] | null) => void;
}

function Item({ item, isFirst, name, onName, onSplit }: ItemProps) {
  const main = item.dataset.slice(item.dataset.lastIndexOf('/') + 1);
  const file = item.part === null ? main : `${main}, ${item.part}`;
  return (
    <Box
      role="group"
      aria-label={file}
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(0, 1fr) 260px',
        gap: 1.5,
        py: 1,
        borderBottom: '1px solid var(--rule)',
        fontSize: 13,
      }}
    >
      <Box>
        <span className="mono">{file}</span>{' '}
        <span style={{ color: 'var(--soft)' }}>
          {[
            item.part === null && (item.kind === 'raster' ? 'raster' : kindWord(item.geometry) || 'table'),
            item.records !== null && many(item.records, 'record'),
            item.crs,
          ]
            .filter(Boolean)
            .join(', ')}
        </span>
        {item.notes.map((note) => (
          <div key={note}>{note}</div>
        ))}
        {item.parts.length > 1 && (
          <Button size="small" onClick={() => onSplit(item.parts)}>
            One table for each kind
          </Button>
        )}
        {item.part !== null && isFirst && (
          <div>
            <Button size="small" onClick={() => onSplit(null)}>
              One table for all kinds
            </Button>
          </div>
        )}
        {item.why !== null && <Box sx={{ color: 'var(--plum)' }}>Left out: {item.why}.</Box>}
      </Box>
      <TextField
        label="Table"
        value={name}
        onChange={(e) => onName(e.target.value)}
        error={item.why !== null}
        slotProps={{ htmlInput: { className: 'mono', 'aria-label': `Table of ${file}` } }}
      />
    </Box>
  );
}

/** What was read and written of each; then the maps can use the tables, by one change. */
function Receipts({ project, done }: { project: ProjectView; done: ImportDone }) {
  const [isSwapping, setSwapping] = useState(false);
  const [isSwapped, setSwapped] = useState(false);
  const edit = useMemo(
    (): EditRequest => ({
      kind: 'use-tables',
      pairs: done.receipts.filter((r) => r.part === null).map((r) => ({ from: r.dataset, to: `${done.geodatabase}#${r.table}` })),
    }),
    [done],
  );
  return (
    <Box role="status">
      {done.receipts.map((r) => (
        <Box key={r.table} sx={{ fontSize: 13, mb: 1 }}>
          <span className="mono">{r.table}</span>: {number(r.read)} {r.unit} read, {number(r.written)} written
          {r.skipped.length === 0 ? ', none left out' : `, ${number(r.read - r.written)} left out`}
          {r.nulls > 0 ? `, ${number(r.nulls)} without a shape` : ''}.{' '}
          {r.isExtentEqual === null ? '' : r.isExtentEqual ? 'The extent is that of the source. ' : 'The source states another extent. '}
          {r.isEqual ? 'Read back, every value is the same.' : 'Read back, values differ: look at it before you rely on it.'}
          <SkippedList skipped={r.skipped} />
          {r.invalid > 0 && (
            <Box sx={{ borderLeft: '3px solid var(--ochre)', pl: 1, mt: 0.25 }}>
              {many(r.invalid, 'shape')} {r.invalid === 1 ? 'breaks' : 'break'} the rules
              {r.fixed > 0 ? `, ${number(r.fixed)} made valid` : ''}:
              <SkippedList skipped={r.firstInvalid} />
            </Box>
          )}
        </Box>
      ))}
      {!isSwapped && (
        <Button variant="outlined" onClick={() => setSwapping(true)}>
          Let the maps use these tables
        </Button>
      )}
      {isSwapping && (
        <EditDialog
          projectKey={project.key}
          title="Let the maps use these tables"
          edit={edit}
          button="Let them"
          onClose={() => setSwapping(false)}
          onDone={() => setSwapped(true)}
        >
          <Typography sx={{ mb: 1 }}>Only where each layer finds its data is rewritten. The originals stay where they are.</Typography>
        </EditDialog>
      )}
    </Box>
  );
}
