import { Box, Button, Stack, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { PackPreview, PathRequest, PackedView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useBundle, useJobs } from '../api/queries.js';
import { JobRow } from '../frame/running-work.js';
import { useOpenProject } from '../frame/use-project.js';
import { FolderChooser } from '../parts/folder-chooser.js';
import { bytes, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Sheet, Tag, Waiting } from '../parts/states.js';
import { SizeMeter } from './size-meter.js';

/** Contents, checks, bundle: what will travel, what will not, and how each layer will be on arrival. */
export function SendPage() {
  const project = useOpenProject();
  const preview = useBundle(project.key);
  if (preview.isError) return <ErrorState error={preview.error} onRetry={() => void preview.refetch()} />;
  if (!preview.data) return <Waiting what="Working out what a bundle would hold…" />;
  return <Send preview={preview.data} projectKey={project.key} title={project.title} />;
}

function Send({ preview, projectKey, title }: { preview: PackPreview; projectKey: string; title: string }) {
  const [out, setOut] = useState<PathRequest>(preview.suggested);
  const [choosing, setChoosing] = useState(false);
  const jobs = useJobs();
  const [jobId, setJobId] = useState<string | null>(null);
  const pack = useMutation({ mutationFn: () => api.pack(projectKey, out), onSuccess: (job) => setJobId(job.id) });
  const job = jobs.data?.filter((j) => j.kind === 'pack').find((j) => j.id === (jobId ?? j.id) && j.project === projectKey);
  return (
    <Box
      sx={{
        p: 2,
        display: 'grid',
        gridTemplateColumns: '1fr 1fr 1fr',
        gap: 1.5,
        alignItems: 'stretch',
        minHeight: '100%',
        boxSizing: 'border-box',
      }}
    >
      <Contents preview={preview} title={title} />
      <Checks preview={preview} projectKey={projectKey} />
      <Step number={3} title="Bundle" subtitle="BagIt in a zip, SHA-256 and SHA-512 of every file">
        <Stack direction="row" spacing={1} sx={{ alignItems: 'center', flexWrap: 'wrap' }}>
          <Typography component="span">To</Typography>
          <PathText path={`${out.place}: ${out.path}`} most={42} />
          <Button onClick={() => setChoosing(true)}>Change</Button>
        </Stack>
        <Button
          variant="contained"
          disabled={pack.isPending || job?.state === 'running'}
          onClick={() => pack.mutate()}
          sx={{ alignSelf: 'flex-start' }}
        >
          Make the bundle
        </Button>
        {pack.isError && <ErrorState error={pack.error} />}
        {job && <JobRow job={job} />}
        {job?.state === 'done' && <Packed result={job.result} />}
      </Step>
      <FolderChooser
        open={choosing}
        title="Where the bundle goes"
        newName={{ label: 'File name', initial: out.path.replace(/^.*\//, ''), button: 'Put it here' }}
        start={{ place: out.place, path: out.path.replace(/\/?[^/]*$/, '') }}
        onClose={() => setChoosing(false)}
        onChoose={(at) => {
          setOut(at);
          setChoosing(false);
        }}
      />
    </Box>
  );
}

const Contents = ({ preview, title }: { preview: PackPreview; title: string }) => (
  <Step number={1} title="Contents" subtitle={`${many(preview.files, 'file')}, ${bytes(preview.bytes)}`}>
    <Typography>The whole root of “{title}” travels: project file, maps, data with all companions, documents.</Typography>
    <SizeMeter size={preview.bytes} carriers={preview.carriers} />
    {preview.rewritten > 0 && (
      <Typography>
        In {many(preview.rewritten, 'map')}, absolute paths to data inside are written relatively in the bundle; your own files stay as they
        are.
      </Typography>
    )}
    <List title="Does not travel" empty="Everything travels." rows={preview.leftOut.map((l) => ({ path: l.path, why: l.why }))} />
  </Step>
);

function Checks({ preview, projectKey }: { preview: PackPreview; projectKey: string }) {
  const broken = preview.layers.filter((l) => l.state !== 'sound');
  const toMend = broken.some((l) => l.detail !== 'its data does not travel');
  return (
    <Step
      number={2}
      title="Checks"
      subtitle={
        broken.length
          ? `${many(broken.length, 'layer')} will not be sound on arrival`
          : `all ${many(preview.layers.length, 'layer')} sound on arrival`
      }
    >
      {broken.length === 0 ? (
        <Tag tone="spruce">every layer is sound in the bundle alone</Tag>
      ) : (
        <>
          <List
            title="On arrival, from the bundle alone"
            empty=""
            rows={broken.map((l) => ({ path: l.title, why: `${l.state}${l.detail ? `: ${l.detail}` : ''}` }))}
          />
          {toMend && (
            <Button component={Link} to={`/p/${projectKey}/mend`} variant="outlined">
              Mend first
            </Button>
          )}
        </>
      )}
      <List title="Names on other systems" empty="Every name can stand on Windows, macOS and Linux." rows={preview.findings} />
    </Step>
  );
}

function Packed({ result }: { result: PackedView }) {
  return (
    <Stack spacing={1} sx={{ p: 1.5, bgcolor: 'var(--spruce-wash)', borderRadius: 1 }} role="status">
      <Typography sx={{ fontWeight: 650 }}>The bundle is made and was read back.</Typography>
      <PathText path={result.file} most={46} />
      <Typography>
        {bytes(result.bytes)} packed, {many(result.payload.files, 'file')}, every checksum right.
      </Typography>
      <Button
        component={Link}
        variant="outlined"
        sx={{ alignSelf: 'flex-start' }}
        to={`/receive?place=${encodeURIComponent(result.out.place)}&path=${encodeURIComponent(result.out.path)}`}
      >
        Receive it into another place
      </Button>
    </Stack>
  );
}

function Step({ number, title, subtitle, children }: { number: number; title: string; subtitle: string; children: React.ReactNode }) {
  return (
    <Sheet sx={{ p: 2 }}>
      <Typography variant="h2">
        {number} · {title}
      </Typography>
      <Typography variant="body2" color="text.secondary" sx={{ mb: 1.5 }}>
        {subtitle}
      </Typography>
      <Stack spacing={1.5}>{children}</Stack>
    </Sheet>
  );
}

const MOST_ROWS = 40;
function List({ title, empty, rows }: { title: string; empty: string; rows: readonly { path: string; why: string }[] }) {
  return (
    <Box>
      <Typography variant="h3">{title}</Typography>
      {rows.length === 0 && <Typography color="text.secondary">{empty}</Typography>}
      {rows.slice(0, MOST_ROWS).map((r, i) => (
        <Box key={i} sx={{ py: 0.5, borderBottom: '1px solid var(--rule)' }}>
          <PathText path={r.path} most={46} />
          <Typography variant="body2" color="text.secondary">
            {r.why}
          </Typography>
        </Box>
      ))}
      {rows.length > MOST_ROWS && <Typography>and {many(rows.length - MOST_ROWS, 'more', 'more')}</Typography>}
    </Box>
  );
}
