import { Box, Checkbox, FormControlLabel, LinearProgress, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useMemo, useState, type Dispatch, type SetStateAction } from 'react';
import type { ThreeBands } from '@rootmap/core';
import type { ImportPlanItem, ImportRequest, JobView, ProjectView, ShapePart } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { inRoot } from '../folders/moves.js';
import { useSettled } from '../folders/use-edit.js';
import { many } from '../parts/format.js';
import { JobActions, useStartedJob } from '../parts/job-actions.js';
import { ErrorState } from '../parts/states.js';
import { useToggled } from '../parts/use-toggled.js';
import { ImportChoice } from './import-choice.js';
import { ImportItemRow } from './import-item.js';
import { ImportReceipts } from './import-receipts.js';
import { FormDialog } from '../parts/form-dialog.js';
import { keys } from '../api/queries.js';

interface Props {
  readonly project: ProjectView;
  /** Path of the geodatabase from the root. */
  readonly into: string;
  /** Datasets that are chosen already. */
  readonly first?: readonly string[];
  readonly isMadeValid?: boolean;
  readonly onClose: () => void;
}

/** What tables are called, by what becomes one. */
type Names = Readonly<Record<string, string>>;
/** Datasets whose kinds of shapes each get a table. */
type Split = Readonly<Record<string, readonly ShapePart[] | null>>;
/** The bands that are wanted of a raster, each as a table of its own, or three as one picture; none: as it is shown by itself. */
type Bands = Readonly<Record<string, readonly number[] | { readonly composite: ThreeBands }>>;

/** A queue of datasets: which table each becomes, what is changed on the way, and afterwards a receipt for each. */
export function ImportDialog({ project, into, first = [], isMadeValid = false, onClose }: Props) {
  const [queue, flip] = useToggled(() => first);
  const [names, setNames] = useState<Names>({});
  const [isOneCrs, setOneCrs] = useState(false);
  const [makesValid, setMakesValid] = useState(isMadeValid);
  const [split, setSplit] = useState<Split>({});
  const [bands, setBands] = useState<Bands>({});
  const asked = useMemo((): ImportRequest | null => {
    if (queue.size === 0) return null;
    const items = [...queue].flatMap((dataset) =>
      (split[dataset] ?? [null]).flatMap((part) =>
        choicesOf(bands[dataset]).map((choice) => ({
          dataset,
          part,
          ...choice,
          table: names[keyOf({ dataset, part, ...choice })]?.trim() ?? '',
        })),
      ),
    );
    return { into: inRoot(project, into), items, crs: isOneCrs ? project.crs : null, makesValid };
  }, [queue, split, bands, names, isOneCrs, makesValid, project, into]);
  const { request, plan } = useImportPlan(project.key, asked);
  const start = useMutation({ mutationFn: (body: ImportRequest) => api.startImport(project.key, body) });
  const { job, isRunning, result: done } = useStartedJob(start.data);
  const planned = queue.size === 0 ? [] : (plan.data?.items ?? []).filter((i) => queue.has(i.dataset));
  const ready = planned.filter((i) => i.why === null).length;
  return (
    <FormDialog
      title={`Bring data into ${into.slice(into.lastIndexOf('/') + 1)}`}
      confirm={`Bring in ${many(ready, planned.some((i) => i.part !== null || isOneOfBands(i, planned)) ? 'table' : 'dataset')}`}
      disabled={ready === 0 || isRunning || start.isPending || request !== asked || plan.isFetching}
      isBusy={isRunning}
      maxWidth="lg"
      onConfirm={() => request && start.mutate(request)}
      onClose={onClose}
      foot={(button) => (
        <JobActions job={job} isRunning={isRunning} isDone={done !== null} onClose={onClose}>
          {button}
        </JobActions>
      )}
    >
      {done ? (
        <ImportReceipts project={project} done={done} />
      ) : (
        <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '320px minmax(0, 1fr)' }, gap: 2, minHeight: 360 }}>
          <ImportChoice project={project} into={into} queue={queue} onFlip={flip} />
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
            <Planned
              planned={planned}
              named={plan.data?.named ?? 0}
              names={names}
              onNames={setNames}
              onSplit={setSplit}
              onBands={setBands}
            />
            {(plan.isError || start.isError) && <ErrorState error={start.error ?? plan.error} />}
            {job?.state === 'failed' && <Typography color="error">{job.message}</Typography>}
            {isRunning && job && <Running job={job} />}
          </Box>
        </Box>
      )}
    </FormDialog>
  );
}

/** What would come of it, once nobody types any more; until then what came of it before. */
function useImportPlan(projectKey: string, asked: ImportRequest | null) {
  const request = useSettled(asked);
  const plan = useQuery({
    queryKey: keys.of(projectKey, 'import', request),
    queryFn: () => api.planImport(projectKey, request!),
    enabled: request !== null,
    placeholderData: (before) => before,
    retry: false,
    gcTime: 0,
  });
  return { request, plan };
}

const choicesOf = (
  wanted: Bands[string] | undefined,
): readonly { readonly band: number | null; readonly composite: ThreeBands | null }[] =>
  wanted === undefined
    ? [{ band: null, composite: null }]
    : 'composite' in wanted
      ? [{ band: null, composite: wanted.composite }]
      : wanted.map((band) => ({ band, composite: null }));

type Piece = Pick<ImportPlanItem, 'dataset' | 'part' | 'band'>;
/** A dataset, one kind of its shapes, or one of its bands. */
const keyOf = ({ dataset, part, band }: Piece): string => [dataset, ...(part ? [part] : []), ...(band ? [`band ${band}`] : [])].join(' ');
const isOneOfBands = (item: Piece, all: readonly Piece[]): boolean =>
  item.band !== null && all.some((p) => p !== item && p.dataset === item.dataset);

/** Where none are chosen, nothing is said of them. */
function withBands(before: Bands, dataset: string, bands: Bands[string]): Bands {
  const { [dataset]: _, ...others } = before;
  return 'length' in bands && bands.length === 0 ? others : { ...others, [dataset]: bands };
}

interface PlannedProps {
  readonly planned: readonly ImportPlanItem[];
  /** Layers that will name the table which they mean. */
  readonly named: number;
  readonly names: Names;
  readonly onNames: Dispatch<SetStateAction<Names>>;
  readonly onSplit: Dispatch<SetStateAction<Split>>;
  readonly onBands: Dispatch<SetStateAction<Bands>>;
}

/** The tables that come of it. */
const Planned = ({ planned, named, names, onNames, onSplit, onBands }: PlannedProps) => (
  <>
    {planned.length === 0 && (
      <Typography color="text.secondary">Choose datasets on the left: each becomes a table, and the originals stay.</Typography>
    )}
    {planned.map((item) => (
      <ImportItemRow
        key={keyOf(item)}
        item={item}
        isFirst={planned.find((p) => p.dataset === item.dataset) === item}
        isOneOfBands={isOneOfBands(item, planned)}
        name={names[keyOf(item)] ?? item.table}
        onName={(n) => onNames((before) => ({ ...before, [keyOf(item)]: n }))}
        onSplit={(parts) => onSplit((before) => ({ ...before, [item.dataset]: parts }))}
        onBands={(bands) => onBands((before) => withBands(before, item.dataset, bands))}
        onComposite={(composite) => onBands((before) => withBands(before, item.dataset, { composite }))}
      />
    ))}
    {planned.length > 0 && named > 0 && (
      <Typography variant="body2" sx={{ mt: 1 }}>
        {many(named, 'layer')} that {named === 1 ? 'means' : 'mean'} its only table will say so by name.
      </Typography>
    )}
  </>
);

const Running = ({ job }: { job: JobView }) => (
  <>
    <LinearProgress
      aria-label="Bringing data in"
      sx={{ mt: 1 }}
      {...(job.of > 0 ? { variant: 'determinate', value: (100 * job.done) / job.of } : {})}
    />
    <Typography variant="body2">{job.item}</Typography>
  </>
);
