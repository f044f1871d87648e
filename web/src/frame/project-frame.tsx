import { Box, Button } from '@mui/material';
import { Link, Outlet, useParams } from 'react-router';
import { useProject } from '../api/queries.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { GroundLine } from './ground-line.js';
import { Trail } from './trail.js';

/** A project: the trail above, the stop, the ground line below. */
export function ProjectFrame() {
  const { key = '' } = useParams();
  const project = useProject(key);
  return (
    <>
      <Trail project={project.data ?? null} />
      <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}>
        {project.isError ? (
          <>
            <ErrorState error={project.error} onRetry={() => void project.refetch()} />
            <Button component={Link} to="/" sx={{ ml: 2 }}>
              All projects
            </Button>
          </>
        ) : project.data ? (
          <Outlet context={project.data} />
        ) : (
          <Waiting what="Looking through the project’s folders…" />
        )}
      </Box>
      <GroundLine project={project.data ?? null} />
    </>
  );
}
