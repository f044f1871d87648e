import { Box, LinearProgress, TextField, Typography } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import type { CopiesPreview, CopiesRequest, CrsView, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { LossLine } from '../parts/loss-line.js';
import { inRoot } from '../folders/moves.js';
import { useSettled } from '../folders/use-edit.js';
import { CrsField } from '../new/crs-field.js';
import { many } from '../parts/format.js';
import { JobActions, useStartedJob } from '../parts/job-actions.js';
import { CopiesReceipt } from './copies-receipt.js';
import { AS_SUITS, PixelFields, pixelWords, RESAMPLING_WORDS, wishOf, type PixelWish } from './pixel-fields.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { FormDialog } from '../parts/form-dialog.js';
import { keys, useWorkFolder } from '../api/queries.js';

interface Props {
  readonly project: ProjectView;
  readonly ids: readonly string[];
  /** Where they are proposed to go, from the root. */
  readonly onClose: () => void;
}

/** Copies of datasets in another CRS, the project's at first: which, where, how exact, and afterwards how many records came over. */
export function CopiesDialog({ project, ids, onClose }: Props) {
  const own = useQuery({
    queryKey: keys.crs(project.crs),
    queryFn: () => api.searchCrs(project.crs!),
    enabled: project.crs !== null,
    staleTime: Infinity,
  });
  const [chosen, setChosen] = useState<CrsView | null>(null);
  const workFolder = useWorkFolder(project.key);
  const [typed, setTyped] = useState<string | null>(null);
  const folder = typed ?? workFolder ?? '';
  const crs = chosen ?? own.data?.find((c) => c.code === project.crs) ?? null;
  const [pixels, setPixels] = useState<PixelWish>(AS_SUITS);
  const asked = useMemo(
    (): CopiesRequest | null =>
      crs && folder.trim() !== '' ? { datasets: ids, crs: crs.code, into: inRoot(project, folder.trim()), ...wishOf(pixels) } : null,
    [crs, folder, ids, pixels, project],
  );
  const request = useSettled(asked);
  const plan = useQuery({
    queryKey: keys.of(project.key, 'copies', request),
    queryFn: () => api.planCopies(project.key, request!),
    enabled: request !== null,
    retry: false,
    gcTime: 0,
  });
  const rasters = new Set(project.datasets.flatMap((d) => (d.kind === 'raster' ? [d.id] : [])));
  const start = useMutation({ mutationFn: (body: CopiesRequest) => api.startCopies(project.key, body) });
  const { job, isRunning, isDone, result } = useStartedJob(start.data);
  return (
    <FormDialog
      title="Copies in another CRS"
      confirm={
        plan.data && plan.data.copies.length > 0
          ? `Make ${plan.data.copies.length === 1 ? 'the copy' : `${plan.data.copies.length} copies`}`
          : 'Make copies'
      }
      disabled={!plan.data || plan.data.copies.length === 0 || isRunning || start.isPending || request !== asked}
      maxWidth="md"
      onConfirm={() => request && start.mutate(request)}
      onClose={onClose}
      foot={(button) => (
        <JobActions job={job} isRunning={isRunning} isDone={isDone} onClose={onClose}>
          {button}
        </JobActions>
      )}
    >
      {result ? (
        <CopiesReceipt done={result} />
      ) : (
        <>
          {chosen !== null || project.crs === null || own.isFetched ? (
            <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '1fr 1fr' }, gap: 2, mt: 1 }}>
              <CrsField value={crs} onChange={setChosen} hint="The project's own at first." />
              <Box>
                <TextField
                  fullWidth
                  label="Folder"
                  value={folder}
                  onChange={(e) => setTyped(e.target.value)}
                  helperText="Each copy is a geodatabase of one table, of a raster a GeoTIFF. The originals stay as they are."
                  sx={{ mb: 1.5 }}
                />
                {ids.some((id) => rasters.has(id)) && <PixelFields wish={pixels} onChange={setPixels} />}
                {plan.data && <Planned plan={plan.data} />}
              </Box>
            </Box>
          ) : (
            <Waiting what="Looking the project's CRS up…" />
          )}
          {(plan.isError || start.isError) && <ErrorState error={start.error ?? plan.error} />}
          {job?.state === 'failed' && <Typography color="error">{job.message}</Typography>}
          {isRunning && <LinearProgress aria-label="Copying" sx={{ mt: 1 }} />}
        </>
      )}
    </FormDialog>
  );
}

/** What would be copied, and what is left out and why. */
const Planned = ({ plan }: { plan: CopiesPreview }) => (
  <>
    {plan.copies.map((c) => (
      <Box key={c.id} sx={{ fontSize: 13, mb: 0.75 }}>
        <span className="mono">{c.name}</span>{' '}
        <span style={{ color: 'var(--soft)' }}>
          from {c.from}, {c.raster ? pixelWords(c.raster) : many(c.records, 'record')}
        </span>
        {c.raster && (
          <Box sx={{ color: 'var(--soft)' }}>
            {RESAMPLING_WORDS[c.raster.resampling]}: {c.raster.because}.
          </Box>
        )}
        <Box sx={{ color: c.doubt ? 'var(--ochre-ink, var(--ink))' : 'var(--soft)' }}>
          {c.doubt ?? 'As far as is known here, no shift between datums is needed.'}
        </Box>
        <LossLine losses={c.losses} isPlan />
      </Box>
    ))}
    {plan.left.map((l) => (
      <Box key={l.id} sx={{ fontSize: 13, mb: 0.75 }}>
        <span className="mono">{l.id.slice(l.id.lastIndexOf('/') + 1)}</span>{' '}
        <span style={{ color: 'var(--soft)' }}>is left out: {l.why}.</span>
      </Box>
    ))}
  </>
);
