import { Box, Button, Checkbox, FormControlLabel, Stack, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { EMPTY_ORIGIN, type Origin } from '@rootmap/core';
import type { EditRequest, IntakeDone, IntakeView, JobView, PathRequest, ProjectView, SourcesView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, useArrival } from '../api/queries.js';
import { EditDialog } from '../folders/edit-dialog.js';
import { bytes, kindWord, many, number } from '../parts/format.js';
import { PackedNotes } from '../notes/packed-notes.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Sheet, Tag, Waiting } from '../parts/states.js';
import { useToggled } from '../parts/use-toggled.js';
import { firstTarget, targetFolder, TargetForm, type Target } from './target-form.js';
import { CopiesOfArrived } from './copies-of-arrived.js';
import { OtherReferencesNote } from './other-references-note.js';
import { NewerEdition } from './newer-edition.js';
import { OriginForm } from './origin-form.js';
import { useStartedJob } from '../parts/job-actions.js';

interface Props {
  readonly id: string;
  readonly project: ProjectView;
  readonly sources: SourcesView | undefined;
  readonly onGone: () => void;
}

/** One archive, or the files of one drop: what is in it, where it goes, where it came from. */
export function ArrivalCard(props: Props) {
  const arrival = useArrival(props.project.key, props.id);
  const forget = (): void => {
    void api.forgetArrival(props.id);
    props.onGone();
  };
  if (arrival.isError)
    return (
      <Sheet>
        <ErrorState error={arrival.error} />
        <Button onClick={props.onGone} sx={{ m: 1 }}>
          Take it off this page
        </Button>
      </Sheet>
    );
  if (!arrival.data)
    return (
      <Sheet>
        <Waiting what="Looking inside…" />
      </Sheet>
    );
  return <Looked {...props} arrival={arrival.data} onForget={forget} />;
}

function Looked({ id, project, sources, arrival, onForget, onGone }: Props & { arrival: IntakeView; onForget: () => void }) {
  const [left, flip] = useToggled(() => arrival.groups.filter((g) => g.kind === 'left-behind').map((g) => g.path));
  const [target, setTarget] = useState<Target>(() => firstTarget(project, sources, arrival));
  const [origin, setOrigin] = useState<Origin>({ ...EMPTY_ORIGIN, ...arrival.proposed });
  const [wish, setWish] = useState<Wish>({ safeNames: true, removeArchive: false, checks: false });
  const wanted = arrival.groups.filter((g) => !left.has(g.path));
  const into = targetFolder(project, sources, target, origin.publisher);
  const address = arrival.proposed.address ?? '';
  const known = address !== '' && sources?.sources.some((s) => s.origin?.address === address) ? address : null;
  const start = useMutation({
    mutationFn: (into: PathRequest) =>
      api.bringIn(project.key, id, {
        into,
        wanted: left.size === 0 ? null : wanted.map((g) => g.path),
        origin,
        ...wish,
      }),
  });
  const { job, result: done } = useStartedJob(start.data);
  const client = useQueryClient();
  const lookAgain = (): void => {
    start.reset();
    void client.invalidateQueries({ queryKey: keys.arrival(project.key, id) });
  };
  return (
    <Sheet sx={{ p: 2 }}>
      <Box component="section" aria-label={arrival.name}>
        <Head arrival={arrival} button={done ? 'Take it off this page' : 'Do not bring it in'} onPress={done ? onGone : onForget} />
        {arrival.problem !== null ? (
          <Problem text={arrival.problem} />
        ) : done ? (
          <>
            <Arrived done={done} project={project} into={start.variables ?? null} />
            {arrival.source !== null && !wish.removeArchive && (
              <ArchiveLeft project={project} arrival={arrival} source={arrival.source} left={left.size} />
            )}
            <CopiesOfArrived project={project} folder={done.folder} />
          </>
        ) : (
          <>
            {known && <NewerEdition projectKey={project.key} arrival={id} address={known} onTaken={onGone} />}
            <Groups arrival={arrival} left={left} onFlip={flip} />
            <OtherReferencesNote groups={arrival.groups} reference={arrival.reference} />
            <Elsewhere arrival={arrival} projectKey={project.key} />
            <PackedNotes projectKey={project.key} arrival={arrival} origin={origin} onOrigin={setOrigin} />
            <RefusedList refused={arrival.refused} />
            {arrival.groups.length > 0 && (
              <Box sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '2fr 3fr' }, gap: 3, mt: 1.5 }}>
                <Box component="section" aria-label="Where it goes">
                  <Typography variant="h3">Where it goes</Typography>
                  <TargetForm project={project} sources={sources} value={target} onChange={setTarget} into={into} />
                  <ArrivalOptions wish={wish} onWish={setWish} isInPlace={arrival.source !== null} />
                </Box>
                <Box component="section" aria-label="Where it came from">
                  <Typography variant="h3" sx={{ mb: 1 }}>
                    Where it came from
                  </Typography>
                  <OwnOrigins groups={arrival.groups} />
                  <OriginForm origin={origin} onChange={setOrigin} />
                </Box>
              </Box>
            )}
            {start.isError && <ErrorState error={start.error} onRetry={lookAgain} />}
            {job?.state === 'failed' && <Problem text={job.message ?? 'It failed.'} />}
            <Stack direction="row" spacing={1.5} sx={{ mt: 1.5, alignItems: 'center' }}>
              <Button
                variant="contained"
                disabled={wanted.length === 0 || into === null || start.isPending || job?.state === 'running'}
                onClick={() => into && start.mutate(into)}
              >
                Bring in {many(wanted.length, 'thing')}
              </Button>
              {job?.state === 'running' && <Unpacking job={job} />}
            </Stack>
          </>
        )}
      </Box>
    </Sheet>
  );
}

const Head = ({ arrival, button, onPress }: { arrival: IntakeView; button: string; onPress: () => void }) => (
  <Stack direction="row" sx={{ alignItems: 'baseline', gap: 1.5, mb: 1 }}>
    <Typography variant="h2" className="mono">
      {arrival.name}
    </Typography>
    <Typography variant="body2" color="text.secondary" sx={{ flex: 1 }}>
      {arrival.problem === null && contents(arrival)}
    </Typography>
    <Button onClick={onPress}>{button}</Button>
  </Stack>
);

/** Where it stands now: below the project as from its root, elsewhere as in its place. */
function Arrived({ done, project, into }: { done: IntakeDone; project: ProjectView; into: PathRequest | null }) {
  const root = `${project.root}/`;
  const folder = done.folder.startsWith(root) || into === null ? done.folder.replace(root, '') : `${into.place}/${into.path}`;
  return (
    <Typography role="status">
      {many(done.files, 'file')} stand in <PathText path={folder} most={70} />, every checksum is right.
      {done.checkJob !== null && (
        <>
          {' '}
          It is being checked: <Link to={`/p/${project.key}/quality`}>see its sheet</Link>.
        </>
      )}
    </Typography>
  );
}

interface ArchiveLeftProps {
  readonly project: ProjectView;
  readonly arrival: IntakeView;
  readonly source: PathRequest;
  /** Things in it that did not come in. */
  readonly left: number;
}

/** What came in is checked, so that the archive may go; what of it did not come in is told first. */
function ArchiveLeft({ project, arrival, source, left }: ArchiveLeftProps) {
  const [isOpen, setOpen] = useState(false);
  const [isGone, setGone] = useState(false);
  const edit = useMemo((): EditRequest => ({ kind: 'trash', paths: [source], evenOriginals: false }), [source]);
  const out = left + arrival.refused.length;
  if (isGone) return <Typography variant="body2">{arrival.name} is in the trash.</Typography>;
  return (
    <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5, mt: 1 }}>
      <Typography variant="body2" color="text.secondary">
        {arrival.name} still stands where it was
        {out > 0 && `; ${many(out, 'thing')} in it did not come in`}.
      </Typography>
      <Button size="small" onClick={() => setOpen(true)}>
        Move it to the trash
      </Button>
      {isOpen && (
        <EditDialog
          projectKey={project.key}
          title={`Move ${arrival.name} to the trash`}
          edit={edit}
          button="Move it"
          onDone={() => setGone(true)}
          onClose={() => setOpen(false)}
        >
          <Typography variant="body2">Undo brings it back, as long as the trash is not emptied.</Typography>
        </EditDialog>
      )}
    </Stack>
  );
}

const Unpacking = ({ job }: { job: JobView }) => (
  <>
    <Typography variant="body2" role="status">
      {bytes(job.done)} of {bytes(job.of)}
    </Typography>
    <Button onClick={() => void api.cancelJob(job.id)}>Stop</Button>
  </>
);

/** How it is brought in. */
interface Wish {
  readonly safeNames: boolean;
  readonly checks: boolean;
  readonly removeArchive: boolean;
}

/** `isInPlace`: the archive stands in a place, so that it can go to the trash afterwards. */
const ArrivalOptions = ({ wish, onWish, isInPlace }: { wish: Wish; onWish: (wish: Wish) => void; isInPlace: boolean }) => (
  <>
    <FormControlLabel
      control={<Checkbox checked={wish.safeNames} onChange={(e) => onWish({ ...wish, safeNames: e.target.checked })} />}
      label="Give safe names on the way in"
    />
    <FormControlLabel
      control={<Checkbox checked={wish.checks} onChange={(e) => onWish({ ...wish, checks: e.target.checked })} />}
      label="Check it when it is in, and begin its quality sheet"
    />
    {isInPlace && (
      <FormControlLabel
        control={<Checkbox checked={wish.removeArchive} onChange={(e) => onWish({ ...wish, removeArchive: e.target.checked })} />}
        label="Move the archive to the trash afterwards"
      />
    )}
  </>
);

/** Companions that stand in another folder: dropped files are paired with them at once, others once they are in. */
function Elsewhere({ arrival, projectKey }: { arrival: IntakeView; projectKey: string }) {
  const client = useQueryClient();
  const pair = useMutation({
    mutationFn: (at: PathRequest) => api.pair(arrival.id, at),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.arrival(projectKey, arrival.id) }),
  });
  if (arrival.elsewhere.length === 0) return null;
  return (
    <Box component="section" aria-label="Found elsewhere" sx={{ mt: 1 }}>
      {arrival.elsewhere.map(({ missing, at }) => (
        <Stack key={missing} direction="row" sx={{ alignItems: 'center', gap: 1, fontSize: 13 }}>
          <span>
            <span className="mono">{missing}</span> stands in{' '}
          </span>
          <PathText path={`${at.place}/${at.path}`} most={60} />
          {arrival.isLoose ? (
            <Button size="small" onClick={() => pair.mutate(at)} disabled={pair.isPending}>
              Bring it along
            </Button>
          ) : (
            <span style={{ color: 'var(--soft)' }}>: choose both together, and they are paired</span>
          )}
        </Stack>
      ))}
      {pair.isError && <ErrorState error={pair.error} />}
    </Box>
  );
}

function contents(a: IntakeView): string {
  const parts = [`${many(a.files, 'file')}, ${bytes(a.bytes)} unpacked`];
  if (a.wrapper) parts.push(`all in ${a.wrapper.replace(/\/$/, '')}, which is left out`);
  if (a.litter > 0) parts.push(`${many(a.litter, 'file')} that only a system needs left out`);
  if (a.freeBytes !== null) parts.push(`${bytes(a.freeBytes)} are free`);
  return parts.join('; ');
}

const Problem = ({ text }: { text: string }) => (
  <Box role="alert" sx={{ borderLeft: '4px solid var(--plum)', bgcolor: 'var(--plum-wash)', px: 1.5, py: 1, borderRadius: 1 }}>
    {text}
  </Box>
);

const SHOWN = 200;

function Groups({ arrival, left, onFlip }: { arrival: IntakeView; left: ReadonlySet<string>; onFlip: (path: string) => void }) {
  return (
    <Box
      sx={{ maxHeight: 260, overflow: 'auto', border: '1px solid var(--rule)', borderRadius: 1 }}
      tabIndex={0}
      role="group"
      aria-label={`What is in ${arrival.name}`}
    >
      {arrival.groups.slice(0, SHOWN).map((g) => (
        <Box
          key={g.path}
          component="label"
          sx={{
            display: 'grid',
            gridTemplateColumns: '32px minmax(0, 1fr) 150px 110px 80px',
            gap: 1,
            alignItems: 'center',
            fontSize: 13,
            px: 0.5,
            borderBottom: '1px solid var(--rule)',
          }}
        >
          <Checkbox size="small" checked={!left.has(g.path)} onChange={() => onFlip(g.path)} />
          <Box sx={{ minWidth: 0, py: 0.5 }}>
            <PathText path={g.path.slice(arrival.wrapper.length)} most={60} />
            {g.files.length > 1 && (
              <Box component="span" sx={{ color: 'var(--soft)' }}>
                {' '}
                {many(g.files.length, 'file')}
              </Box>
            )}
            {g.findings.map((f) => (
              <Box key={f.message} sx={{ color: 'var(--ochre)', fontSize: 12 }}>
                {f.message}
              </Box>
            ))}
          </Box>
          <span>
            {kindWord(g.geometry) || g.kind}
            {g.count === null ? '' : `, ${number(g.count)}`}
          </span>
          <span className="mono">{g.crs ?? (g.isDescribed ? '' : 'read on arrival')}</span>
          <span style={{ textAlign: 'right' }}>{bytes(g.bytes)}</span>
        </Box>
      ))}
      {arrival.groups.length > SHOWN && <Typography variant="body2">… and {arrival.groups.length - SHOWN} more</Typography>}
    </Box>
  );
}

/** What datasets tell themselves is theirs alone, and holds before what is written for all. */
function OwnOrigins({ groups }: Pick<IntakeView, 'groups'>) {
  const own = groups.filter((g) => g.told);
  if (own.length === 0) return null;
  const names = own.slice(0, 3).map((g) => g.path.slice(g.path.lastIndexOf('/') + 1));
  return (
    <Typography variant="body2" color="text.secondary" sx={{ mb: 1 }}>
      {own.length > 3 ? `${own.length} datasets` : names.join(', ')} {own.length === 1 ? 'tells' : 'tell'} where{' '}
      {own.length === 1 ? 'it comes' : 'they come'} from: that is kept for {own.length === 1 ? 'it' : 'them'}. Below is for all others.
    </Typography>
  );
}

function RefusedList({ refused }: { refused: IntakeView['refused'] }) {
  if (refused.length === 0) return null;
  return (
    <Box component="section" aria-label="Refused" sx={{ mt: 1 }}>
      <Tag tone="plum">{many(refused.length, 'entry', 'entries')} refused</Tag>
      <Box component="ul" sx={{ m: 0, mt: 0.5, p: 0, listStyle: 'none', fontSize: 13, maxHeight: 110, overflow: 'auto' }}>
        {refused.map((r) => (
          <li key={r.path}>
            <span className="mono">{r.path}</span>: {r.why}
          </li>
        ))}
      </Box>
    </Box>
  );
}
