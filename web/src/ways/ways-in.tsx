import { Box, Button, ButtonBase, Stack, Typography } from '@mui/material';
import { useNavigate } from 'react-router';
import type { ProjectSummary } from '@rootmap/core/contract';
import { Sheet } from '../parts/states.js';
import { beginWay, hideWays, useLeftWay } from './use-way.js';
import { brokenOf, pageOf, projectFor, WAYS, type Way } from './ways.js';

interface Props {
  readonly projects: readonly ProjectSummary[];
  /** There is no project yet: a folder is opened first, and the way goes on in it. */
  readonly onOpenFolder: (way: Way) => void;
}

/** Begins a way on a project and says where it starts. */
export function startWay(way: Way, projects: readonly ProjectSummary[], project: string | null): string {
  const key = way.id === 'make' ? null : project;
  beginWay(way.id, key, { broken: brokenOf(projects.find((p) => p.key === key)), keys: projects.map((p) => p.key) });
  return pageOf(way.steps[0]!, key);
}

/** What this is, and three ways in with the time that they take. */
export function WaysIn({ projects, onOpenFolder }: Props) {
  const navigate = useNavigate();
  const left = useLeftWay();
  const begin = (way: Way): void => {
    if (left?.way === way.id) {
      const { step, key } = left.resume();
      void navigate(pageOf(way.steps[step]!, key));
      return;
    }
    const project = projectFor(way.id, projects);
    if (way.id !== 'make' && project === null) onOpenFolder(way);
    else void navigate(startWay(way, projects, project?.key ?? null));
  };
  return (
    <Sheet sx={{ p: 2, mb: 2 }}>
      <Box
        component="section"
        aria-label="Ways in"
        sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', md: 'minmax(0, 4fr) minmax(0, 7fr)' }, gap: 2.5 }}
      >
        <Stack spacing={1} sx={{ justifyContent: 'space-between', alignItems: 'flex-start' }}>
          <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', '& li': { mb: 0.75, lineHeight: 1.4 } }}>
            <li>Root Map keeps the folders of a job, its geodatabases and its maps in step.</li>
            <li>It shows where each layer’s data is, and mends the maps when data has moved.</li>
            <li>It sends a project whole, and checks it again where it arrives.</li>
          </Box>
          <Button color="inherit" onClick={hideWays} sx={{ ml: -1 }}>
            Hide this
          </Button>
        </Stack>
        <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', sm: 'repeat(3, minmax(0, 1fr))' }, gap: 1.5 }}>
          {WAYS.map((way) => (
            <ButtonBase
              key={way.id}
              onClick={() => begin(way)}
              sx={{
                display: 'flex',
                flexDirection: 'column',
                alignItems: 'stretch',
                justifyContent: 'flex-start',
                textAlign: 'left',
                font: 'inherit',
                p: 1.5,
                borderRadius: '6px',
                border: '1px solid var(--rule)',
                bgcolor: 'var(--paper)',
                '&:hover': { borderColor: 'var(--spruce)' },
              }}
            >
              <Stack direction="row" spacing={1} sx={{ justifyContent: 'space-between', alignItems: 'baseline' }}>
                <Typography component="span" sx={{ fontWeight: 700, color: 'var(--spruce)' }}>
                  {way.title}
                </Typography>
                <Typography component="span" variant="body2" color="text.secondary" sx={{ whiteSpace: 'nowrap' }}>
                  {left?.way === way.id ? 'go on' : `${way.minutes} min`}
                </Typography>
              </Stack>
              <Typography component="span" variant="body2" sx={{ display: 'block', mt: 0.5 }}>
                {way.id !== 'make' && projects.length === 0 ? 'Open the folder of a job, and see what is there. ' : ''}
                {way.about}
              </Typography>
            </ButtonBase>
          ))}
        </Box>
      </Box>
    </Sheet>
  );
}
