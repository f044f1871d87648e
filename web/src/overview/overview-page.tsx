import { Box, Button, Stack, Typography } from '@mui/material';
import { useState } from 'react';
import { Link } from 'react-router';
import type { ProjectView } from '@rootmap/core/contract';
import { useOpenProject } from '../frame/use-project.js';
import { ProjectNotes, thingsOf } from '../notes/project-notes.js';
import { useQuality } from '../api/queries.js';
import { sideBySide } from '../parts/side-by-side.js';
import { bytes, kindWord, many, number } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { EmptyState, Sheet } from '../parts/states.js';
import { Tether, type Bond } from '../parts/tether.js';
import { useUrlState } from '../parts/use-url-state.js';
import { bytesByFolder, nextSteps } from './next-steps.js';
import { ProjectCard } from './project-card.js';
import { RootDiagram } from './root-diagram.js';

const LEGEND: readonly [Bond, string][] = [
  [{ stored: 'relative', reach: 'inside', state: 'sound' }, 'relative, inside'],
  [{ stored: 'relative', reach: 'linked', state: 'sound' }, 'through a link'],
  [{ stored: 'relative', reach: 'outside', state: 'sound' }, 'leaves the root'],
  [{ stored: 'absolute', reach: 'outside', state: 'adrift' }, 'absolute, adrift'],
  [{ stored: 'relative', reach: 'inside', state: 'different' }, 'different'],
  [{ stored: 'relative', reach: 'inside', state: 'incomplete' }, 'incomplete'],
  [{ stored: 'relative', reach: 'linked', state: 'absent' }, 'absent'],
  [{ stored: 'service', reach: 'service', state: 'not-asked' }, 'service, not asked'],
];

/** The root diagram, what to do next, and where the bytes are. */
export function OverviewPage() {
  const project = useOpenProject();
  const [search, set] = useUrlState();
  const dataset = search.get('dataset');
  const isEmpty = project.maps.length === 0 && project.damaged.length === 0;
  const pick = (id: string | null): void => set({ dataset: id });
  return (
    <Box sx={sideBySide('minmax(0, 1fr) 310px')}>
      <Box sx={{ display: 'flex', flexDirection: 'column', minWidth: 0, minHeight: 0 }}>
        {isEmpty ? <NoMapYet project={project} /> : <RootDiagram key={project.key} project={project} dataset={dataset} onDataset={pick} />}
        <Stack
          direction="row"
          useFlexGap
          sx={{
            flexWrap: 'wrap',
            columnGap: 1.25,
            px: 2,
            py: 0.75,
            borderTop: '1px solid var(--rule)',
            fontSize: 11.5,
            color: 'text.secondary',
          }}
        >
          {LEGEND.map(([bond, words]) => (
            <Stack key={words} direction="row" spacing={0.5} sx={{ alignItems: 'center' }}>
              <Tether bond={bond} />
              <span>{words}</span>
            </Stack>
          ))}
        </Stack>
      </Box>
      <Stack spacing={1.5} sx={{ p: 1.5, pl: 0, overflow: 'auto' }} tabIndex={0} role="region" aria-label="What to do next">
        {dataset !== null && <DatasetCard project={project} id={dataset} onClose={() => pick(null)} />}
        {!isEmpty && <Next project={project} />}
        <ProjectCard project={project} />
        <ProjectNotes key={project.key} projectKey={project.key} things={thingsOf(project)} />
        <Bytes project={project} />
      </Stack>
    </Box>
  );
}

/** A project begins here: what comes first is one press away. */
const NoMapYet = ({ project }: { project: ProjectView }) => (
  <EmptyState
    title={project.datasets.length === 0 ? 'Nothing in it yet' : 'No map here yet'}
    action={
      <Stack direction="row" spacing={1} sx={{ justifyContent: 'center' }}>
        <Button
          component={Link}
          to={`/p/${project.key}/sources${project.datasets.length === 0 ? '?view=intake' : ''}`}
          variant={project.datasets.length === 0 ? 'contained' : 'outlined'}
        >
          {project.datasets.length === 0 ? 'Bring data in' : `See its ${many(project.datasets.length, 'dataset')}`}
        </Button>
        <Button component={Link} to={`/p/${project.key}/maps`} variant={project.datasets.length === 0 ? 'outlined' : 'contained'}>
          Make a map
        </Button>
      </Stack>
    }
  >
    Maps are files that end in .owc.json. Once one lies below {project.shownRoot}, its layers and their data are drawn here. Data comes
    first: unpack what was delivered, or link the folder that it stands in.
  </EmptyState>
);

/** As many as a screen holds. */
const MOST_STEPS = 5;
/** Beyond so many datasets the sheets are looked at on their own stop alone. */
const MOST_LOOKED_AT = 2000;

function Next({ project }: { project: ProjectView }) {
  const quality = useQuality(project.key, project.datasets.length <= MOST_LOOKED_AT);
  const [isAll, setAll] = useState(false);
  const steps = nextSteps(project, quality.data?.rows);
  const shown = isAll ? steps : steps.slice(0, MOST_STEPS);
  return (
    <Sheet sx={{ p: 2 }}>
      <Typography variant="h2" sx={{ mb: 1 }}>
        Next, worst first
      </Typography>
      {shown.map((step) => (
        <Box key={step.id} sx={{ py: 1.25, borderTop: '1px solid var(--rule)' }}>
          <Typography sx={{ fontWeight: 650, color: `var(--${step.tone})` }}>{step.title}</Typography>
          <Typography variant="body2" color="text.secondary" sx={{ mb: 1, overflowWrap: 'anywhere' }}>
            {step.detail}
          </Typography>
          <Button
            component={Link}
            to={step.to}
            variant={step.tone === 'plum' ? 'contained' : 'outlined'}
            aria-label={`${step.button}: ${step.title}`}
          >
            {step.button}
          </Button>
        </Box>
      ))}
      {steps.length > shown.length && (
        <Button size="small" onClick={() => setAll(true)}>
          {steps.length - shown.length} more, less urgent
        </Button>
      )}
    </Sheet>
  );
}

function Bytes({ project }: { project: ProjectView }) {
  const folders = bytesByFolder(project);
  const most = Math.max(1, ...folders.map((f) => f.bytes));
  if (folders.length === 0) return null;
  return (
    <Sheet sx={{ p: 2 }}>
      <Typography variant="h2" sx={{ mb: 1 }}>
        Where the bytes are
      </Typography>
      {folders.slice(0, 8).map((f) => (
        <Box key={f.folder} sx={{ mb: 0.75 }}>
          <Stack direction="row" sx={{ justifyContent: 'space-between', fontSize: 12.5 }}>
            <span className="mono">{f.folder}</span>
            <span title={`${f.bytes} bytes`}>{bytes(f.bytes)}</span>
          </Stack>
          <Box sx={{ height: 6, bgcolor: 'var(--sunk)', borderRadius: 3 }}>
            <Box sx={{ height: 6, width: `${Math.max(1, (100 * f.bytes) / most)}%`, bgcolor: 'var(--spruce)', borderRadius: 3 }} />
          </Box>
        </Box>
      ))}
    </Sheet>
  );
}

function DatasetCard({ project, id, onClose }: { project: ProjectView; id: string; onClose: () => void }) {
  const d = project.datasets.find((x) => x.id === id);
  if (!d) return null;
  const usedBy = project.maps.flatMap((m) => m.layers.filter((l) => l.dataset === id).map((l) => `${l.title} in ${m.title}`));
  const facts: [string, string][] = [
    ['Format', d.format],
    ['Kind', kindWord(d.geometry) || d.kind],
    ['Records', d.count === null ? '' : number(d.count)],
    ['CRS', d.crs ?? 'not stated'],
    ['Size', bytes(d.bytes)],
    ['Used by', usedBy.length ? usedBy.join('; ') : 'no map'],
  ];
  return (
    <Sheet sx={{ p: 2 }}>
      <Stack direction="row" sx={{ justifyContent: 'space-between', alignItems: 'flex-start' }}>
        <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
          {d.name}
        </Typography>
        <Button onClick={onClose}>Close</Button>
      </Stack>
      <PathText path={d.id} most={38} />
      <Box component="dl" sx={{ m: 0, mt: 1, display: 'grid', gridTemplateColumns: '70px 1fr', gap: 0.5, fontSize: 13 }}>
        {facts
          .filter(([, v]) => v !== '')
          .map(([k, v]) => (
            <Box key={k} sx={{ display: 'contents' }}>
              <Box component="dt" sx={{ color: 'text.secondary' }}>
                {k}
              </Box>
              <Box component="dd" sx={{ m: 0, overflowWrap: 'anywhere' }}>
                {v}
              </Box>
            </Box>
          ))}
      </Box>
      {d.findings.map((f) => (
        <Typography key={f.code} variant="body2" sx={{ mt: 1, color: 'var(--ochre)' }}>
          {f.message}
        </Typography>
      ))}
    </Sheet>
  );
}
