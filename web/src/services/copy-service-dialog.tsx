import { LinearProgress, MenuItem, TextField, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { ServiceItem } from '@rootmap/core';
import type { JobView, ProjectView, ServiceCopyDone, ServiceCopyRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useGeodatabases } from '../api/queries.js';
import { inRoot } from '../folders/moves.js';
import { ImportReceipts } from '../geodatabases/import-receipts.js';
import { FormDialog } from '../parts/form-dialog.js';
import { number } from '../parts/format.js';
import { JobActions, useStartedJob } from '../parts/job-actions.js';
import { ErrorState, Waiting } from '../parts/states.js';

interface Props {
  readonly project: ProjectView;
  readonly item: ServiceItem;
  /** What a map shows, in degrees; left out: only all of it can be copied. */
  readonly degrees?: readonly [number, number, number, number];
  readonly onClose: () => void;
}

/** Records of a server become a table of a geodatabase, with where they came from and when. */
export function CopyServiceDialog({ project, item, degrees, onClose }: Props) {
  const geodatabases = useGeodatabases(project.key);
  const [into, setInto] = useState<string | null>(null);
  const [table, setTable] = useState('');
  const [part, setPart] = useState<'all' | 'shown'>(degrees ? 'shown' : 'all');
  const start = useMutation({ mutationFn: (body: ServiceCopyRequest) => api.copyService(project.key, body) });
  const { job, isRunning, isDone, result } = useStartedJob(start.data);
  if (!geodatabases.data) return null;
  const files = geodatabases.data.containers.filter((g) => g.link === null).map((g) => g.shownPath);
  const at = into ?? geodatabases.data.working ?? files[0] ?? 'geodatabases/services.gpkg';
  const go = (): void =>
    start.mutate({
      layer: item.href!,
      degrees: part === 'shown' && degrees ? degrees : null,
      into: inRoot(project, at),
      table: table.trim(),
      crs: null,
    });
  return (
    <FormDialog
      title={`Keep a local copy of ${item.title}`}
      confirm="Copy it"
      disabled={isRunning || start.isPending}
      maxWidth="sm"
      onConfirm={go}
      onClose={onClose}
      foot={(button) => (
        <JobActions job={job} isRunning={isRunning} isDone={isDone} onClose={onClose}>
          {button}
        </JobActions>
      )}
    >
      {result ? (
        <Came project={project} result={result} />
      ) : (
        <>
          <TextField select fullWidth label="Geodatabase" value={at} onChange={(e) => setInto(e.target.value)} sx={{ mt: 1 }}>
            {[...new Set([at, ...files])].map((f) => (
              <MenuItem key={f} value={f}>
                {f}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            fullWidth
            label="Table"
            placeholder="named after the collection"
            value={table}
            onChange={(e) => setTable(e.target.value)}
            slotProps={{ inputLabel: { shrink: true } }}
            sx={{ mt: 1.5 }}
          />
          {degrees && (
            <TextField
              select
              fullWidth
              label="How much"
              value={part}
              onChange={(e) => setPart(e.target.value as 'all' | 'shown')}
              sx={{ mt: 1.5 }}
            >
              <MenuItem value="shown">what the map shows</MenuItem>
              <MenuItem value="all">all of it</MenuItem>
            </TextField>
          )}
          <Typography variant="body2" color="text.secondary" sx={{ mt: 1.5 }}>
            It comes page by page; when it breaks off, the next try goes on from there. Address, publisher and date are written beside it.
          </Typography>
          {start.isError && <ErrorState error={start.error} />}
          {job?.state === 'failed' && <Typography role="alert">{job.message}</Typography>}
          {isRunning && job && <HowFar job={job} />}
        </>
      )}
    </FormDialog>
  );
}

const HowFar = ({ job }: { job: JobView<'service-copy'> }) => (
  <>
    <Waiting what={`${number(job.done)}${job.of > 0 ? ` of ${number(job.of)}` : ''} ${job.unit}`} />
    <LinearProgress
      variant={job.of > 0 ? 'determinate' : 'indeterminate'}
      value={job.of > 0 ? Math.min(100, (100 * job.done) / job.of) : 0}
      aria-label="How far it is"
    />
  </>
);

/** How many records came, beside how many the server told of. */
const Came = ({ project, result }: { project: ProjectView; result: ServiceCopyDone }) => (
  <>
    <Typography role="status" sx={{ mb: 1 }}>
      {number(result.came)} records came
      {result.told === null
        ? '; the server does not say how many it has'
        : result.told === result.came
          ? ', as many as the server told of'
          : `, of ${number(result.told)} that the server told of`}
      {result.resumedAt > 0 ? `; ${number(result.resumedAt)} of them in an earlier try` : ''}.
    </Typography>
    {result.import && <ImportReceipts project={project} done={result.import} isFromServer />}
  </>
);
