import { Box, Button } from '@mui/material';
import { lazy, Suspense, useEffect } from 'react';
import { Link, Outlet, useLocation, useNavigate, useParams } from 'react-router';
import { useProject } from '../api/queries.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { GroundLine } from './ground-line.js';
import { MovedNotice } from './moved-notice.js';
import { Trail } from './trail.js';

const MissedNotice = lazy(() => import('./missed-notice.js').then((m) => ({ default: m.MissedNotice })));

/** A root that moved has another key: the address bar follows, and the page stays. */
function useFollowKey(asked: string, now: string | undefined): void {
  const navigate = useNavigate();
  const { pathname, search } = useLocation();
  useEffect(() => {
    if (now !== undefined && now !== asked) void navigate(pathname.replace(`/p/${asked}`, `/p/${now}`) + search, { replace: true });
  }, [asked, now, navigate, pathname, search]);
}

/** A project: the trail above, the stop, the ground line below. */
export function ProjectFrame() {
  const { key = '' } = useParams();
  const project = useProject(key);
  useFollowKey(key, project.data?.key);
  return (
    <>
      <Trail project={project.data ?? null} />
      {project.data && <MovedNotice project={project.data} />}
      {project.data && (
        <Suspense>
          <MissedNotice projectKey={project.data.key} />
        </Suspense>
      )}
      <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}>
        {project.isError ? (
          <>
            <ErrorState error={project.error} onRetry={() => void project.refetch()} />
            <Button component={Link} to="/" sx={{ ml: 2 }}>
              All projects
            </Button>
          </>
        ) : project.data ? (
          <Box sx={{ height: '100%' }}>
            <Outlet context={project.data} />
          </Box>
        ) : (
          <Waiting what="Looking through the project’s folders…" />
        )}
      </Box>
      <GroundLine project={project.data ?? null} />
    </>
  );
}
