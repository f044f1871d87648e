import { Box } from '@mui/material';
import type { SendMemory } from '@rootmap/core/contract';
import { useSendMemory } from '../api/queries.js';
import { useOpenProject } from '../frame/use-project.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { ArrangementStep } from './arrangement-step.js';
import { BundleStep } from './bundle-step.js';
import { ChecksStep } from './checks-step.js';
import { ContentsStep } from './contents-step.js';
import { useSend } from './use-send.js';

/** Contents, arrangement, checks, bundle: from left to right, and nothing is written until the last. */
export function SendPage() {
  const project = useOpenProject();
  const memory = useSendMemory(project.key);
  if (memory.isError) return <ErrorState error={memory.error} onRetry={() => void memory.refetch()} />;
  if (!memory.data) return <Waiting what="Looking up what was sent last…" />;
  return <Send key={project.key} projectKey={project.key} memory={memory.data} />;
}

function Send({ projectKey, memory }: { projectKey: string; memory: SendMemory }) {
  const sending = useSend(projectKey, memory.send);
  const { preview } = sending;
  if (sending.error !== null) return <ErrorState error={sending.error} onRetry={sending.retry} />;
  if (!preview) return <Waiting what="Working out what a bundle would hold…" />;
  return (
    <Box
      aria-busy={sending.isOld}
      sx={{
        p: 1.5,
        display: 'grid',
        gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1.35fr) minmax(0, 1fr) minmax(0, 1.05fr) minmax(0, 0.9fr)' },
        gap: 1.25,
        height: { md: '100%' },
        minHeight: 0,
        boxSizing: 'border-box',
      }}
    >
      <ContentsStep sending={sending} preview={preview} />
      <ArrangementStep sending={sending} preview={preview} memory={memory} projectKey={projectKey} />
      <ChecksStep sending={sending} preview={preview} projectKey={projectKey} />
      <BundleStep sending={sending} preview={preview} projectKey={projectKey} />
    </Box>
  );
}
