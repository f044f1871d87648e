import { FormControlLabel, LinearProgress, Radio, RadioGroup, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { ProjectView, JobView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { useWorkFolder } from '../../api/queries.js';
import { inRoot } from '../../folders/moves.js';
import { JobActions, useStartedJob } from '../../parts/job-actions.js';
import { ErrorState } from '../../parts/states.js';
import { FormDialog } from '../../parts/form-dialog.js';

interface Props {
  readonly project: ProjectView;
  readonly dataset: string;
  readonly name: string;
  readonly from: string;
  readonly crs: string;
  /** Becomes a file of its own: pixels are not computed into a geodatabase. */
  readonly isRaster: boolean;
  /** Path of the working geodatabase from the root; null: there is none. */
  readonly working: string | null;
  /** The copy is there, under this id. */
  readonly onCopied: (dataset: string) => void;
  readonly onClose: () => void;
}

/** A dataset computed in the map's CRS, into the working geodatabase or the folder for work; the layer then shows the copy. */
export function CopyInCrsDialog({ project, dataset, name, from, crs, isRaster, working, onCopied, onClose }: Props) {
  const [to, setTo] = useState<'geodatabase' | 'folder'>(working && !isRaster ? 'geodatabase' : 'folder');
  const folder = useWorkFolder(project.key);
  const target = to === 'geodatabase' ? working : folder;
  const start = useMutation({
    mutationFn: (target: string): Promise<JobView<'import' | 'copies'>> =>
      to === 'geodatabase'
        ? api.startImport(project.key, {
            into: inRoot(project, target),
            items: [{ dataset, part: null, table: '' }],
            crs,
            makesValid: false,
          })
        : api.startCopies(project.key, { datasets: [dataset], crs, into: inRoot(project, target) }),
  });
  const { job, isRunning, isDone } = useStartedJob<'import' | 'copies'>(start.data);
  useEffect(() => {
    if (job?.state !== 'done') return;
    if (job.kind === 'import') {
      const { geodatabase, receipts } = job.result;
      onCopied(`${geodatabase}#${receipts[0]!.table}`);
    } else {
      const { name: file } = job.result.copies[0]!;
      const table = file.endsWith('.gpkg') ? `#${file.replace(/\.gpkg$/, '')}` : '';
      onCopied(`${project.root}/${folder}/${file}${table}`);
    }
    onClose();
  }, [isDone]); // eslint-disable-line react-hooks/exhaustive-deps -- once, when it is done
  return (
    <FormDialog
      title={`A copy of ${name} in ${crs}`}
      confirm="Make the copy"
      disabled={isRunning || start.isPending || target === null}
      isBusy={isRunning}
      maxWidth="sm"
      onConfirm={() => target !== null && start.mutate(target)}
      onClose={onClose}
      foot={(button) => (
        <JobActions job={job} isRunning={isRunning} isDone={isDone} onClose={onClose}>
          {button}
        </JobActions>
      )}
    >
      <Typography color="text.secondary" sx={{ mb: 1 }}>
        {isRaster ? 'Its pixels are computed anew' : 'Its coordinates are computed'} from {from}; the original stays as it is. The layer
        keeps its look, and shows the copy.
      </Typography>
      <RadioGroup value={to} onChange={(_, v) => setTo(v as typeof to)} aria-label="Where the copy goes">
        <FormControlLabel
          value="geodatabase"
          disabled={!working || isRaster}
          control={<Radio size="small" />}
          label={
            isRaster
              ? 'A raster becomes a file of its own'
              : working
                ? `Into the working geodatabase, ${working}`
                : 'There is no working geodatabase'
          }
        />
        <FormControlLabel value="folder" control={<Radio size="small" />} label={`Into the folder ${folder ?? '…'}`} />
      </RadioGroup>
      {start.isError && <ErrorState error={start.error} />}
      {job?.state === 'failed' && <Typography color="error">{job.message}</Typography>}
      {isRunning && <LinearProgress aria-label="Copying" sx={{ mt: 1 }} />}
    </FormDialog>
  );
}
