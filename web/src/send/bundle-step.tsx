import { Box, Button, FormControlLabel, Radio, RadioGroup, Stack, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { PackedView, PackPreview, PathRequest, SendRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useJobs } from '../api/queries.js';
import { JobRow } from '../frame/running-work.js';
import { FolderChooser } from '../parts/folder-chooser.js';
import { bytes, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState } from '../parts/states.js';
import { SizeMeter } from './size-meter.js';
import { Step } from './step.js';
import type { Sending } from './use-send.js';

const withoutZip = (path: string): string => path.replace(/\.zip$/i, '');

/** Where it goes, how large it will be, and the button that makes it. */
export function BundleStep({ sending, preview, projectKey }: { sending: Sending; preview: PackPreview; projectKey: string }) {
  const [chosen, setChosen] = useState<PathRequest | null>(null);
  const [asFolder, setAsFolder] = useState(false);
  const [choosing, setChoosing] = useState(false);
  const [made, setMade] = useState<{ jobId: string; of: SendRequest; asFolder: boolean } | null>(null);
  const at = chosen ?? preview.suggested;
  const out = asFolder ? { ...at, path: withoutZip(at.path) + (chosen ? '' : '_copy') } : at;
  const jobs = useJobs();
  const pack = useMutation({
    mutationFn: (of: SendRequest) => api.pack(projectKey, { out, asFolder, send: of }),
    onMutate: () => setMade(null),
    onSuccess: (job, of) => setMade({ jobId: job.id, of, asFolder }),
  });
  const packs = jobs.data?.filter((j) => j.kind === 'pack').filter((j) => j.project === projectKey);
  // While a bundle is asked for, what was made before is not told as if it were this one.
  const job = pack.isPending ? undefined : packs?.find((j) => j.id === (made?.jobId ?? j.id));
  const done = job?.state === 'done' ? job.result : null;
  const lacking = preview.checks.filter((c) => c.check === 'sheets').length;
  const exact = made?.of === sending.send && made.asFolder === asFolder ? done : null;
  return (
    <Step number={4} title="Bundle" subtitle="SHA-256 and SHA-512 of every file, read back">
      <RadioGroup aria-label="As what" value={asFolder ? 'folder' : 'zip'} onChange={(e) => setAsFolder(e.target.value === 'folder')}>
        <FormControlLabel value="zip" control={<Radio size="small" />} label="One zip (BagIt in it)" />
        <FormControlLabel value="folder" control={<Radio size="small" />} label="A copy at a place, without a zip" />
      </RadioGroup>
      <Stack direction="row" spacing={0.5} sx={{ alignItems: 'center', flexWrap: 'wrap' }}>
        <Typography component="span">To</Typography>
        <PathText path={`${out.place}: ${out.path}`} most={30} />
        <Button onClick={() => setChoosing(true)}>Change</Button>
      </Stack>
      {lacking > 0 && (
        <Typography variant="body2" sx={{ color: 'var(--plum)' }}>
          The project asks for a sheet of every dataset before it is sent, and {lacking} lack it: see Checks.
        </Typography>
      )}
      <Button
        variant="contained"
        disabled={lacking > 0 || pack.isPending || job?.state === 'running' || sending.isOld || preview.files === 0}
        onClick={() => pack.mutate(sending.send)}
        sx={{ alignSelf: 'flex-start' }}
      >
        {asFolder ? 'Copy it there' : 'Make the bundle'}
      </Button>
      <SizeMeter
        size={exact ? exact.bytes : asFolder ? preview.bytes : preview.packedBytes}
        isExact={exact !== null || asFolder}
        carriers={exact ? exact.carriers : preview.carriers}
      />
      {pack.isError && <ErrorState error={pack.error} />}
      {job && <JobRow job={job} />}
      {done && <Packed result={done} />}
      <FolderChooser
        open={choosing}
        title={asFolder ? 'Where the copy goes' : 'Where the bundle goes'}
        newName={{ label: asFolder ? 'Folder name' : 'File name', initial: out.path.replace(/^.*\//, ''), button: 'Put it here' }}
        start={{ place: out.place, path: out.path.replace(/\/?[^/]*$/, '') }}
        onClose={() => setChoosing(false)}
        onChoose={(to) => {
          setChosen(to);
          setChoosing(false);
        }}
      />
    </Step>
  );
}

function Packed({ result }: { result: PackedView }) {
  return (
    <Stack spacing={1} sx={{ p: 1.5, bgcolor: 'var(--spruce-wash)', borderRadius: 1 }} role="status">
      <Typography sx={{ fontWeight: 650 }}>The bundle is made and was read back.</Typography>
      <PathText path={`${result.out.place}: ${result.out.path}`} most={34} />
      <Box>
        {bytes(result.bytes)}, {many(result.payload.files, 'file')}, every checksum right.
      </Box>
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
