import { Box, Button, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import type { ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useWorkFolder } from '../api/queries.js';
import { inRoot } from '../folders/moves.js';
import { many } from '../parts/format.js';
import { useStartedJob } from '../parts/job-actions.js';
import { ErrorState } from '../parts/states.js';
import { CopiesReceipt } from './copies-receipt.js';

/** Datasets below a folder whose shapes or pixels are in another CRS than the project's. */
const othersBelow = ({ datasets, crs }: ProjectView, folder: string): string[] =>
  datasets.flatMap((d) =>
    d.id.startsWith(`${folder}/`) && (d.kind === 'vector' || d.kind === 'raster') && d.crs !== null && crs !== null && d.crs !== crs
      ? [d.id]
      : [],
  );

/** Copies in the project's CRS of what just came in, in one press. */
export function CopiesOfArrived({ project, folder }: { project: ProjectView; folder: string }) {
  const others = othersBelow(project, folder);
  const into = useWorkFolder(project.key);
  const start = useMutation({
    mutationFn: (to: string) => api.startCopies(project.key, { datasets: others, crs: project.crs!, into: inRoot(project, to) }),
  });
  const { job, isRunning, result } = useStartedJob(start.data);
  if (result) return <CopiesReceipt done={result} />;
  if (others.length === 0) return null;
  return (
    <Box sx={{ mt: 1 }}>
      <Button
        variant="outlined"
        disabled={into === null || isRunning || start.isPending}
        onClick={() => into !== null && start.mutate(into)}
      >
        Make {many(others.length, 'copy', 'copies')} in {project.crs}
      </Button>
      <Typography variant="body2" color="text.secondary">
        {many(others.length, 'dataset')} came in another CRS. The originals stay as they are; the copies go to {into ?? '…'}, and say what
        they were made from and how exact they are.
      </Typography>
      {start.isError && <ErrorState error={start.error} />}
      {job?.state === 'failed' && <Typography color="error">{job.message}</Typography>}
    </Box>
  );
}
