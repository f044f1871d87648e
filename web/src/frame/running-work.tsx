import { Box, Button, LinearProgress, Popover, Stack, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import type { JobView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useJobs } from '../api/queries.js';
import { hasReceipt, type ReceiptJob } from './receipt-job.js';
import { bytes, number } from '../parts/format.js';

const JobReceipt = lazy(() => import('./job-receipt.js').then((m) => ({ default: m.JobReceipt })));

/** Work that is going on, and what came of the last of it. Nothing is shown where there is none. */
export function RunningWork() {
  const jobs = useJobs();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const [receipt, setReceipt] = useState<ReceiptJob | null>(null);
  if (!jobs.data?.length) return null;
  const running = jobs.data.filter((j) => j.state === 'running').length;
  return (
    <>
      <Button onClick={(e) => setAnchor(e.currentTarget)} sx={{ color: 'var(--top-text)' }} aria-haspopup="dialog">
        {running ? `Working: ${running}` : 'Work done'}
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
      >
        <Stack spacing={2} sx={{ p: 2, width: 380 }}>
          {jobs.data.slice(0, 6).map((job) => (
            <JobRow key={job.id} job={job} onReceipt={(of) => (setAnchor(null), setReceipt(of))} />
          ))}
        </Stack>
      </Popover>
      <Suspense>{receipt && <JobReceipt job={receipt} onClose={() => setReceipt(null)} />}</Suspense>
    </>
  );
}

const STATE = { running: 'running', done: 'done', failed: 'failed', cancelled: 'cancelled, nothing left half done' } as const;

const SURE_AFTER_MS = 3000;
/** How long it will take still, from how long it took so far: said when that means something. */
function timeLeft(done: number, of: number, tookMs: number): string {
  if (tookMs < SURE_AFTER_MS || done <= 0 || of <= done) return '';
  const seconds = Math.max(1, Math.round(((of - done) * tookMs) / done / 1000));
  return seconds < 90 ? `, about ${seconds} s left` : `, about ${Math.round(seconds / 60)} min left`;
}

/** How many bytes came of how many, how fast, and how long it takes still. */
export const bytesSoFar = ({ done, of, startedMs }: JobView): string =>
  `${bytes(done)} of ${bytes(of)}, ${bytes(done / Math.max(0.2, (Date.now() - startedMs) / 1000))} a second${timeLeft(done, of, Date.now() - startedMs)}`;

/** '1 of 3 records · ', or how many bytes and how fast; nothing before the first. */
function doneSoFar(job: JobView): string {
  const { done, of, unit } = job;
  if (done === 0 && of === 0) return '';
  if (unit === 'bytes') return `${bytesSoFar(job)} · `;
  return `${number(done)}${of > 0 ? ` of ${number(of)}` : ''} ${unit} · `;
}

export function JobRow({ job, onReceipt }: { job: JobView; onReceipt?: (job: ReceiptJob) => void }) {
  const cancel = useMutation({ mutationFn: () => api.cancelJob(job.id) });
  const percent = job.of > 0 ? Math.round((100 * job.done) / job.of) : 0;
  return (
    <Box>
      <Stack direction="row" sx={{ justifyContent: 'space-between', alignItems: 'baseline', gap: 1 }}>
        <Typography variant="h3" component="p">
          {job.title}
        </Typography>
        <Typography variant="body2" color="text.secondary">
          {STATE[job.state]}
        </Typography>
      </Stack>
      {job.state === 'running' && (
        <>
          <LinearProgress
            variant={job.of ? 'determinate' : 'indeterminate'}
            value={percent}
            aria-label={`${job.title}: ${percent} %`}
            sx={{ my: 1 }}
          />
          <Typography variant="body2" color="text.secondary" noWrap>
            {doneSoFar(job)}
            {job.item}
          </Typography>
          <Button onClick={() => cancel.mutate()} disabled={cancel.isPending}>
            Cancel
          </Button>
        </>
      )}
      {job.kind === 'tables' &&
        job.state === 'done' &&
        job.result.notes.map((n) => (
          <Typography key={n} variant="body2">
            {n}
          </Typography>
        ))}
      {onReceipt && hasReceipt(job) && (
        <Button size="small" onClick={() => onReceipt(job)}>
          See its receipt
        </Button>
      )}
      {job.message && <Typography variant="body2">{job.message}</Typography>}
    </Box>
  );
}
