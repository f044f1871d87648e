import { isInOrder } from '@rootmap/core';
import { Box, Button, Stack, Typography } from '@mui/material';
import { useMutation, useQuery, type UseQueryResult } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { ArrivedView, BundleView, JobView, PathRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { JobRow } from '../frame/running-work.js';
import { ChangesList } from '../journal/changes-list.js';
import { FilesAround } from '../places/files-around.js';
import { FolderChooser } from '../parts/folder-chooser.js';
import { bytes, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { alsoNotAsked } from '../parts/tether.js';
import { ErrorState, Sheet, Tag, Waiting } from '../parts/states.js';
import { useUrlState } from '../parts/use-url-state.js';
import { BundleCard } from './bundle-card.js';
import { EditionPanel } from './edition-panel.js';
import { StayedOutPanel } from '../sources/stayed-out-panel.js';
import { useStartedJob } from '../parts/job-actions.js';

const Hint = () => (
  <Sheet sx={{ p: 2 }}>
    <Typography variant="h3">What happens</Typography>
    <Typography>
      The bundle is looked into before anything is unpacked: from whom it is, what it holds, what it does not carry. Then every checksum is
      checked while it is unpacked, and it takes its place only when all are right.
    </Typography>
  </Sheet>
);

const stem = (path: string): string => path.replace(/^.*\//, '').replace(/\.zip$/i, '');

const COLUMNS = {
  display: 'grid',
  gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) minmax(0, 1fr)' },
  gap: 2,
  alignItems: 'start',
  maxWidth: 1240,
} as const;

/** A bundle comes in: looked into first, then checked while it is unpacked into an empty or new folder, which becomes the root. */
export function ReceivePage() {
  const [search, set] = useUrlState();
  const bundle = search.has('place') ? { place: search.get('place')!, path: search.get('path') ?? '' } : null;
  const [into, setInto] = useState<PathRequest | null>(null);
  const [choosing, setChoosing] = useState<'bundle' | 'into' | null>(null);
  const [started, setStarted] = useState<JobView<'receive'>>();
  const look = useQuery({
    queryKey: ['bundle-look', bundle],
    queryFn: ({ signal }) => api.lookIntoBundle(bundle!, signal),
    enabled: bundle !== null,
    retry: false,
  });
  const receive = useMutation({
    mutationFn: (setAside: boolean) => api.receive({ bundle: bundle!, into: into!, setAside }),
    onSuccess: setStarted,
  });
  const { job, isRunning, result } = useStartedJob(started);
  const chooseBundle = (at: PathRequest): void => {
    set({ place: at.place, path: at.path });
    setChoosing(null);
  };
  return (
    <Box sx={{ p: { xs: 1.5, md: 3 }, overflow: 'auto' }}>
      <Typography variant="h1" sx={{ mb: 2 }}>
        Receive a bundle
      </Typography>
      <Box sx={COLUMNS}>
        <Stack spacing={2}>
          <Sheet sx={{ p: 2 }}>
            <Stack spacing={2}>
              <Choice
                label="The bundle"
                value={bundle}
                empty="A zip file that was sent from a project, or the folder of a bag"
                button="Choose the bundle"
                onChoose={() => setChoosing('bundle')}
              />
              <Choice
                label="Into"
                value={into}
                empty="An empty or new folder; it becomes the root"
                button="Choose where it goes"
                onChoose={() => setChoosing('into')}
              />
              <Button
                variant="contained"
                sx={{ alignSelf: 'flex-start' }}
                disabled={!bundle || !into || receive.isPending || isRunning}
                onClick={() => receive.mutate(false)}
              >
                Check and receive
              </Button>
              {receive.isError && !look.isError && <ErrorState error={receive.error} />}
              {job && <JobRow job={job} />}
              {result && <Result arrived={result} onRest={() => receive.mutate(true)} />}
            </Stack>
          </Sheet>
          {bundle && look.data && look.data.here.length > 0 && (
            <EditionPanel bundle={bundle} here={look.data.here} onStarted={setStarted} isRunning={isRunning} />
          )}
        </Stack>
        <LookedInto isChosen={bundle !== null} look={look} />
      </Box>
      {bundle === null && <Around onChoose={chooseBundle} />}
      <Choosers
        choosing={choosing}
        bundle={bundle}
        onBundle={chooseBundle}
        onInto={(at) => {
          setInto(at);
          setChoosing(null);
        }}
        onClose={() => setChoosing(null)}
      />
    </Box>
  );
}

/** What a bundle holds, or what will happen. */
const LookedInto = ({ isChosen, look }: { isChosen: boolean; look: UseQueryResult<BundleView> }) => (
  <Box>
    {!isChosen && <Hint />}
    {look.isFetching && !look.data && <Waiting what="Looking into the bundle…" />}
    {look.isError && <ErrorState error={look.error} onRetry={() => void look.refetch()} />}
    {look.data && <BundleCard look={look.data} />}
  </Box>
);

interface ChoosersProps {
  readonly choosing: 'bundle' | 'into' | null;
  readonly bundle: PathRequest | null;
  readonly onBundle: (at: PathRequest) => void;
  readonly onInto: (at: PathRequest) => void;
  readonly onClose: () => void;
}

const Choosers = ({ choosing, bundle, onBundle, onInto, onClose }: ChoosersProps) => (
  <>
    <FolderChooser
      open={choosing === 'bundle'}
      title="Choose the bundle"
      useFolderLabel="This folder is the bag"
      acceptsFile={(name) => /\.zip$/i.test(name)}
      onClose={onClose}
      onChoose={onBundle}
    />
    <FolderChooser
      open={choosing === 'into'}
      title="Choose where it goes"
      useFolderLabel="Use this empty folder"
      newName={{ label: 'New folder', initial: bundle ? stem(bundle.path) : 'received_project', button: 'Make it here' }}
      onClose={onClose}
      onChoose={onInto}
    />
  </>
);

/** While no bundle is chosen: those that lie about, and what came and went before. */
function Around({ onChoose }: { onChoose: (at: PathRequest) => void }) {
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: 'repeat(auto-fit, minmax(min(100%, 420px), 1fr))',
        gap: 2,
        mt: 2,
        alignItems: 'start',
      }}
    >
      <FilesAround
        title="Archives that lie about"
        accepts={(name) => /\.zip$/i.test(name)}
        button="Look into it"
        onChoose={onChoose}
        empty="None lies at the top of a place, or in a folder called arrivals or downloads."
      />
      <Stack spacing={2}>
        <ChangesList title="Received before" kind="receive" empty="Nothing yet. What arrives stands here with its day." />
        <ChangesList title="Bundles made here" kind="pack" empty="None yet. A project is sent whole at its stop Send." />
      </Stack>
    </Box>
  );
}

function Choice({
  label,
  value,
  empty,
  button,
  onChoose,
}: {
  label: string;
  value: PathRequest | null;
  empty: string;
  button: string;
  onChoose: () => void;
}) {
  return (
    <Stack direction="row" useFlexGap sx={{ alignItems: 'center', flexWrap: 'wrap', columnGap: 2, rowGap: 0.5 }}>
      <Typography variant="h3" component="span" sx={{ width: 90 }}>
        {label}
      </Typography>
      <Box sx={{ flex: '1 1 200px' }}>
        {value ? <PathText path={`${value.place}: ${value.path}`} most={60} /> : <Typography color="text.secondary">{empty}</Typography>}
      </Box>
      <Button variant="outlined" onClick={onChoose}>
        {button}
      </Button>
    </Stack>
  );
}

function Result({ arrived: r, onRest }: { arrived: ArrivedView; onRest: () => void }) {
  if (r.files === 0)
    return (
      <Box role="alert" sx={{ p: 1.5, bgcolor: 'var(--plum-wash)', borderRadius: 1 }}>
        <Typography sx={{ fontWeight: 650 }}>The bundle is not valid, so nothing was unpacked. Ask the sender for it again.</Typography>
        {r.findings.slice(0, 20).map((f) => (
          <Typography key={f.path + f.problem} variant="body2">
            <span className="mono">{f.path}</span> {f.problem}
          </Typography>
        ))}
        <Button onClick={onRest} sx={{ mt: 1 }}>
          Receive the rest, and set these aside
        </Button>
      </Box>
    );
  const broken = r.layers.filter((l) => !isInOrder(l.state));
  const notAsked = r.layers.filter((l) => l.state === 'not-asked').length;
  return (
    <Stack spacing={1} role="status" sx={{ p: 1.5, bgcolor: 'var(--spruce-wash)', borderRadius: 1 }}>
      <Typography sx={{ fontWeight: 650 }}>
        {r.findings.length === 0
          ? `Arrived whole: ${many(r.files, 'file')}, ${bytes(r.bytes)}, every checksum right.`
          : `${many(r.files, 'file')}, ${bytes(r.bytes)}, arrived with right checksums; set aside: ${r.findings.length}`}
      </Typography>
      {r.findings.slice(0, 20).map((f) => (
        <Typography key={f.path + f.problem} variant="body2">
          <span className="mono">{f.path}</span> {f.problem}
        </Typography>
      ))}
      <div>
        {broken.length === 0 ? (
          <Tag tone="spruce">
            all {many(r.layers.length - notAsked, 'layer')} sound{alsoNotAsked(notAsked)}
          </Tag>
        ) : (
          <Tag tone="plum">{many(broken.length, 'layer')} not sound</Tag>
        )}
      </div>
      {broken.map((l, i) => (
        <Typography key={i} variant="body2">
          {l.title}: {l.state}
        </Typography>
      ))}
      {r.key && r.stayedOut > 0 && <StayedOutPanel projectKey={r.key} />}
      {r.key && (
        <Button component={Link} to={`/p/${r.key}/overview`} variant="contained" sx={{ alignSelf: 'flex-start' }}>
          Open the project
        </Button>
      )}
    </Stack>
  );
}
