import { Box, Button, Stack, Typography } from '@mui/material';
import { useEffect } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { useProjects } from '../api/queries.js';
import { useWalking } from './use-way.js';
import { brokenOf, isOn, madeSince, pageOf } from './ways.js';

/** The step of a way that somebody walks: one sentence above the page, which it never covers. */
export function WayStrip() {
  const walking = useWalking();
  const { pathname, search } = useLocation();
  const navigate = useNavigate();
  const { data: projects = [] } = useProjects();
  const step = walking?.way.steps[walking.step];
  const made = walking ? madeSince({ at: pathname, projects }, walking.begun) : null;
  const key = walking?.way.id === 'make' ? (made ?? walking.key) : (walking?.key ?? null);
  const isDone = walking && step?.isDone?.({ at: pathname, projects }, key, walking.begun) === true;
  const to = (n: number): void => {
    if (!walking) return;
    const next = walking.way.steps[n];
    if (!next) {
      walking.finish();
      return;
    }
    walking.goTo(n, key);
    if (!isOn(pageOf(next, key), pathname, search)) void navigate(pageOf(next, key));
  };
  const broken = brokenOf(projects.find((p) => p.key === key));
  useEffect(() => {
    if (isDone) to(walking.step + 1);
    else if (walking && broken > walking.begun.broken) walking.sawBroken(broken);
  });
  if (!walking || !step) return null;
  const page = pageOf(step, key);
  const isAway = !isOn(page, pathname, search) && !(walking.way.id === 'make' && walking.step === 0);
  const isLast = walking.step === walking.way.steps.length - 1;
  return (
    <Box
      component="section"
      aria-label={`${walking.way.title}, step by step`}
      sx={{ flex: 'none', px: 2, py: 0.75, bgcolor: 'var(--ochre-wash)', borderBottom: '1px solid var(--rule)' }}
    >
      <Stack direction="row" useFlexGap spacing={1.5} sx={{ alignItems: 'center', flexWrap: 'wrap' }}>
        <Typography component="span" sx={{ fontWeight: 700, color: 'var(--ochre)', whiteSpace: 'nowrap' }}>
          {walking.way.title} · {walking.step + 1} of {walking.way.steps.length}
        </Typography>
        <Typography component="span" role="status" sx={{ flex: '1 1 420px' }}>
          {step.says}
        </Typography>
        <Stack direction="row" spacing={0.5}>
          {walking.step > 0 && <Button onClick={() => to(walking.step - 1)}>Back</Button>}
          {isAway && (
            <Button variant="outlined" onClick={() => void navigate(page)}>
              Go there
            </Button>
          )}
          {!isAway && (
            <Button variant="outlined" onClick={() => to(walking.step + 1)}>
              {isLast ? 'That was it' : 'Next'}
            </Button>
          )}
          <Button color="inherit" onClick={walking.leave}>
            Leave it
          </Button>
        </Stack>
      </Stack>
    </Box>
  );
}
