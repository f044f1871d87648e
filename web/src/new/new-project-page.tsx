import { mdiFolderOutline } from '@mdi/js';
import { Box, Button, Checkbox, FormControlLabel, MenuItem, Radio, RadioGroup, Stack, TextField, Typography } from '@mui/material';
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { enqueueSnackbar } from 'notistack';
import { lazy, Suspense, useState, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import { DEFAULT_NAMING, proposeName, withParents } from '@rootmap/core';
import type { CrsView, NewProjectBody, PathRequest, StarterLink } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, usePlaces, usePlans, useProjects } from '../api/queries.js';
import { useSettled } from '../folders/use-edit.js';
import { RoleMark } from '../folders/marks.js';
import { Icon } from '../parts/icon.js';
import { nameHelp } from '../parts/name-help.js';
import { many } from '../parts/format.js';
import { ErrorState, Sheet } from '../parts/states.js';
import { useToggled } from '../parts/use-toggled.js';
import { firstOf, PlanChoice, type PlanDraft } from '../plans/plan-choice.js';
import { draftFault, draftOf, foldersOf } from '../plans/plan-editor.js';
import { CrsField } from './crs-field.js';

const FolderChooser = lazy(() => import('../parts/folder-chooser.js').then((m) => ({ default: m.FolderChooser })));

/** From a title to a real folder: what will be made stands beside what is chosen, all the time. */
export function NewProjectPage() {
  const navigate = useNavigate();
  const places = usePlaces();
  const plans = usePlans();
  const [title, setTitle] = useState('');
  const [ownName, setOwnName] = useState<string | null>(null);
  const [parent, setParent] = useState<PathRequest | null>(null);
  const [makes, setMakes] = useState(true);
  const [plan, setPlan] = useState<PlanDraft | null>(null);
  const [crs, setCrs] = useState<CrsView | null>(null);
  const [withGeodatabase, setWithGeodatabase] = useState(true);
  const [like, setLike] = useState<string | null>(null);
  const starters = useQuery({ queryKey: keys.starterLinks, queryFn: api.starterLinks });
  const offered = starters.data ?? [];
  const [wanted, flipLink] = useToggled();
  const proposed = title.trim() === '' ? '' : proposeName(title.trim(), DEFAULT_NAMING);
  const name = ownName ?? proposed;
  const firstPlace = places.data?.find((p) => p.present && !p.readOnly)?.name;
  const into = parent ?? (firstPlace === undefined ? null : { place: firstPlace, path: '' });
  const draft = plan ?? (plans.data ? firstOf(plans.data) : null);
  const isReady = title.trim() !== '' && into !== null && draft !== null && draftFault(draft.draft) === null && (!makes || name !== '');
  const body: NewProjectBody | null = isReady
    ? {
        at: makes ? { place: into.place, path: into.path === '' ? name : `${into.path}/${name}` } : into,
        title: title.trim(),
        summary: '',
        folders: foldersOf(draft.draft),
        crs: crs?.code ?? null,
        withGeodatabase,
        like,
        naming: null,
        links: offered.filter((l) => wanted.has(l.name)).map(({ name, at }) => ({ name, at })),
      }
    : null;
  const create = useMutation({
    mutationFn: (b: NewProjectBody) => api.createProject(b),
    onSuccess: ({ key }) => {
      enqueueSnackbar('The project is there. The journal takes it back.');
      void navigate(`/p/${key}/folders`);
    },
  });
  return (
    <Box sx={{ p: 2, height: '100%', boxSizing: 'border-box', overflow: 'auto' }}>
      <Typography variant="h1" sx={{ mb: 1.5 }}>
        New project
      </Typography>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) minmax(0, 1fr) 340px' },
          gap: 1.5,
          alignItems: 'start',
        }}
      >
        <Stack spacing={1.5}>
          <Part n={1} title="What it is called">
            <TitleFields title={title} onTitle={setTitle} name={name} isOwn={ownName !== null} isOpen={makes} onName={setOwnName} />
            <LikeField value={like} onChange={setLike} onPlan={setPlan} onCrs={setCrs} />
          </Part>
          <Where name={name} into={into} onInto={setParent} makes={makes} onMakes={setMakes} />
          <Part n={3} title="Its coordinates">
            <CrsField hint="Can be left open." value={crs} onChange={setCrs} />
          </Part>
        </Stack>
        <Part n={4} title="Its folders">
          <PlanChoice value={draft} onChange={setPlan} />
          <FormControlLabel
            control={<Checkbox checked={withGeodatabase} onChange={(e) => setWithGeodatabase(e.target.checked)} />}
            label="Make a working geodatabase for it"
          />
          {like === null && <LinkChoice offered={offered} wanted={wanted} onFlip={flipLink} />}
        </Part>
        <Preview body={body} draft={draft} onCreate={(b) => create.mutate(b)} isBusy={create.isPending} error={create.error} />
      </Box>
    </Box>
  );
}

interface TitleProps {
  readonly title: string;
  readonly onTitle: (title: string) => void;
  readonly name: string;
  /** The name was typed; otherwise it follows from the title. */
  readonly isOwn: boolean;
  /** A folder is made, so that its name can be chosen. */
  readonly isOpen: boolean;
  readonly onName: (name: string | null) => void;
}

const TitleFields = ({ title, onTitle, name, isOwn, isOpen, onName }: TitleProps) => (
  <>
    <TextField
      autoFocus
      label="Title"
      value={title}
      onChange={(e) => onTitle(e.target.value)}
      placeholder="Tern colonies of the outer bay"
    />
    <TextField
      label="Folder name"
      value={name}
      disabled={!isOpen}
      onChange={(e) => onName(e.target.value === '' ? null : e.target.value)}
      helperText={(isOwn ? '' : 'Made from the title. ') + nameHelp(name)}
      slotProps={{ htmlInput: { className: 'mono' }, inputLabel: { shrink: true } }}
    />
  </>
);

interface WhereProps {
  readonly name: string;
  readonly into: PathRequest | null;
  readonly onInto: (at: PathRequest) => void;
  /** A folder is made; otherwise the one that is chosen becomes the project. */
  readonly makes: boolean;
  readonly onMakes: (makes: boolean) => void;
}

function Where({ name, into, onInto, makes, onMakes }: WhereProps) {
  const [choosing, setChoosing] = useState(false);
  return (
    <>
      <Part n={2} title="Where it stands">
        <Stack direction="row" spacing={1} sx={{ alignItems: 'center' }}>
          <Box className="mono" sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis' }}>
            {into ? [into.place, into.path].filter(Boolean).join('/') : 'no place can be written to'}
          </Box>
          <Button variant="outlined" onClick={() => setChoosing(true)}>
            Choose the folder
          </Button>
        </Stack>
        <RadioGroup value={makes ? 'new' : 'this'} onChange={(_, v) => onMakes(v === 'new')} aria-label="Which folder becomes the project">
          <FormControlLabel value="new" control={<Radio size="small" />} label={`Make the folder ${name || '…'} in it`} />
          <FormControlLabel value="this" control={<Radio size="small" />} label="Use this folder itself; what is in it stays" />
        </RadioGroup>
      </Part>
      <Suspense>
        {choosing && (
          <FolderChooser
            open
            title="Which folder is it to stand in?"
            useFolderLabel="Use this folder"
            start={into}
            onClose={() => setChoosing(false)}
            onChoose={(at) => {
              onInto(at);
              setChoosing(false);
            }}
          />
        )}
      </Suspense>
    </>
  );
}

interface LinkChoiceProps {
  readonly offered: readonly StarterLink[];
  readonly wanted: ReadonlySet<string>;
  readonly onFlip: (name: string) => void;
}

/** Folders that other projects link. */
const LinkChoice = ({ offered, wanted, onFlip }: LinkChoiceProps) =>
  offered.length === 0 ? null : (
    <Box role="group" aria-label="Folders to link">
      <Typography variant="body2">Folders that other projects link:</Typography>
      {offered.map((l) => (
        <FormControlLabel
          key={l.name}
          control={<Checkbox checked={wanted.has(l.name)} onChange={() => onFlip(l.name)} />}
          label={`${l.name} (${many(l.projects, 'project')})`}
          sx={{ display: 'block' }}
        />
      ))}
    </Box>
  );

interface LikeProps {
  readonly value: string | null;
  readonly onChange: (key: string | null) => void;
  readonly onPlan: (plan: PlanDraft) => void;
  readonly onCrs: (crs: CrsView | null) => void;
}

/** Takes folders, CRS, links and naming from a project that is there. */
function LikeField({ value, onChange, onPlan, onCrs }: LikeProps) {
  const projects = useProjects();
  const take = useMutation({
    mutationFn: async (key: string) => {
      const [project, folders] = await Promise.all([api.project(key), api.folders(key)]);
      const crs = project.crs === null ? [] : await api.searchCrs(project.crs);
      return { folders, crs: crs.find((c) => c.code === project.crs) ?? null };
    },
    onSuccess: ({ folders, crs }) => {
      onPlan({
        planId: '',
        draft: draftOf(Object.entries(folders.roles).map(([path, role]) => ({ path, role: role as never, note: '' }))),
      });
      onCrs(crs);
    },
  });
  const known = projects.data?.filter((p) => p.present) ?? [];
  if (known.length === 0) return null;
  return (
    <>
      <TextField
        select
        label="New like the last one"
        value={value ?? ''}
        onChange={(e) => {
          const key = e.target.value === '' ? null : e.target.value;
          onChange(key);
          if (key) take.mutate(key);
        }}
        slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        helperText="Takes folders, CRS, links and rules for names from a project."
      >
        <MenuItem value="">start afresh</MenuItem>
        {known.map((p) => (
          <MenuItem key={p.key} value={p.key}>
            {p.title}
          </MenuItem>
        ))}
      </TextField>
      {take.isError && <ErrorState error={take.error} />}
    </>
  );
}

interface PreviewProps {
  readonly body: NewProjectBody | null;
  readonly draft: PlanDraft | null;
  readonly isBusy: boolean;
  readonly error: unknown;
  readonly onCreate: (body: NewProjectBody) => void;
}

/** What will be made, where, and how long its paths become. */
function Preview({ body, draft, isBusy, error, onCreate }: PreviewProps) {
  const settled = useSettled(body);
  const plan = useQuery({
    queryKey: keys.newProject(settled),
    queryFn: () => api.planNewProject(settled!),
    enabled: settled !== null,
    retry: false,
    gcTime: 0,
    placeholderData: keepPreviousData, // a button that is off for a moment swallows a click
  });
  const roles = new Map(foldersOf(draft?.draft ?? []).map((f) => [f.path, f.role]));
  return (
    <Sheet sx={{ p: 2, position: 'sticky', top: 0 }}>
      <Box component="section" aria-label="What will be made">
        <Typography variant="h2" sx={{ mb: 1 }}>
          What will be made
        </Typography>
        {plan.data && (
          <>
            <Box className="mono" sx={{ overflowWrap: 'anywhere' }}>
              {plan.data.shownRoot}
            </Box>
            <Typography variant="body2" sx={{ color: plan.data.longest > plan.data.limit ? 'var(--plum)' : 'var(--soft)', mb: 1 }}>
              {plan.data.isFilled && 'The folder is there already; what is in it stays. '}
              Longest path: {plan.data.longest} of {plan.data.limit} characters that Windows programs take.
            </Typography>
          </>
        )}
        <Box component="ul" aria-label="Folders that will be made" sx={{ listStyle: 'none', m: 0, p: 0, fontSize: 13 }}>
          {withParents([...roles.keys()]).map((path) => (
            <Box
              component="li"
              key={path}
              sx={{ display: 'flex', alignItems: 'center', gap: 0.75, height: 26, pl: `${(path.split('/').length - 1) * 16}px` }}
            >
              <Icon path={mdiFolderOutline} sx={{ fontSize: 16, color: 'var(--spruce)' }} aria-hidden />
              <span className="mono">{path.slice(path.lastIndexOf('/') + 1)}</span>
              <Box component="span" sx={{ ml: 'auto', fontSize: 12 }}>
                <RoleMark role={roles.get(path) ?? null} isOwn={false} />
              </Box>
            </Box>
          ))}
        </Box>
        {plan.data && (
          <Typography variant="body2" sx={{ mt: 1, overflowWrap: 'anywhere' }}>
            Files in them: {plan.data.created.filter((p) => /\.(gpkg|rootmap\.json)$/.test(p)).join(', ')}
          </Typography>
        )}
        {plan.isError && <ErrorState error={plan.error} />}
        {error !== null && <ErrorState error={error} />}
        <Stack direction="row" spacing={1} sx={{ mt: 2 }}>
          <Button variant="contained" disabled={!plan.data || plan.isError || body === null || isBusy} onClick={() => onCreate(body!)}>
            Make the project
          </Button>
          <Button component={Link} to="/">
            Cancel
          </Button>
        </Stack>
        {body === null && (
          <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
            Give it a title to begin.
          </Typography>
        )}
      </Box>
    </Sheet>
  );
}

const Part = ({ n, title, children }: { n: number; title: string; children: ReactNode }) => (
  <Sheet sx={{ p: 2 }}>
    <Box component="section" aria-label={title}>
      <Typography variant="h2" sx={{ mb: 1.5 }}>
        <Box component="span" className="mono" sx={{ color: 'var(--spruce)', mr: 1 }}>
          {n}
        </Box>
        {title}
      </Typography>
      <Stack spacing={1.5}>{children}</Stack>
    </Box>
  </Sheet>
);
