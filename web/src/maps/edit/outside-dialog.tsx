import {
  Box,
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  Radio,
  RadioGroup,
  Typography,
} from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { OutsideView, PathRequest, ProjectView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { tellDone } from '../../journal/tell-done.js';
import { bytes, many, number } from '../../parts/format.js';
import { PathText } from '../../parts/path-text.js';
import { ErrorState, Waiting } from '../../parts/states.js';
import { LinkDialog } from '../../sources/link-dialog.js';
import { keys } from '../../api/queries.js';

type How = 'bring-in' | 'link' | 'leave';
const KEPT = 'rootmap.outside';

/** What was chosen for a folder before. */
function remembered(folder: string): How | null {
  const all = JSON.parse(localStorage.getItem(KEPT) ?? '{}') as Record<string, How>;
  return all[folder] ?? null;
}
function remember(folder: string, how: How | null): void {
  const all = JSON.parse(localStorage.getItem(KEPT) ?? '{}') as Record<string, How>;
  if (how === null) delete all[folder];
  else all[folder] = how;
  localStorage.setItem(KEPT, JSON.stringify(all));
}

interface Props {
  readonly project: ProjectView;
  readonly at: PathRequest;
  readonly onAdd: (ids: readonly string[]) => void;
  readonly onClose: () => void;
}

/** Data from outside the project: brought in, reached through a link, or left where it is. Asked before it becomes a layer. */
export function OutsideDialog({ project, at, onAdd, onClose }: Props) {
  const found = useQuery({
    queryKey: keys.of(project.key, 'outside', at),
    queryFn: () => api.outside(project.key, at),
    retry: false,
    gcTime: 0,
  });
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth aria-labelledby="outside-title">
      <DialogTitle id="outside-title" variant="h2">
        Data from outside the project
      </DialogTitle>
      {found.isError ? (
        <DialogContent>
          <ErrorState error={found.error} />
        </DialogContent>
      ) : found.data ? (
        <Asked project={project} found={found.data} onAdd={onAdd} onClose={onClose} />
      ) : (
        <DialogContent>
          <Waiting what="Looking at it…" />
        </DialogContent>
      )}
      {found.isError && (
        <DialogActions>
          <Button onClick={onClose}>Close</Button>
        </DialogActions>
      )}
    </Dialog>
  );
}

function Asked({
  project,
  found,
  onAdd,
  onClose,
}: {
  project: ProjectView;
  found: OutsideView;
  onAdd: Props['onAdd'];
  onClose: () => void;
}) {
  const [how, setHow] = useState<How>(() => remembered(found.shownFolder) ?? 'bring-in');
  const [keeps, setKeeps] = useState(remembered(found.shownFolder) !== null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set(found.datasets.slice(0, 1).map((d) => d.id)));
  const [linking, setLinking] = useState<PathRequest | null>(null);
  const ids = found.datasets.filter((d) => chosen.has(d.id)).map((d) => d.id);
  const isOutside = found.reach === 'outside';
  const add = (list: readonly string[]): void => {
    remember(found.shownFolder, keeps ? how : null);
    onAdd(list);
    onClose();
  };
  const bring = useMutation({
    mutationFn: async () => {
      const edit = { kind: 'bring-in', datasets: ids } as const;
      const plan = await api.planEdit(project.key, edit);
      const applied = await api.applyEdit(project.key, edit);
      return { plan, applied };
    },
    onSuccess: ({ plan, applied }) => {
      tellDone(`${plan.title}: done.`, applied.change);
      const to = plan.moved.find((m) => m.from === found.path)?.to;
      add(to === undefined ? ids : ids.map((id) => `${project.root}/${to}${id.slice(found.path.length)}`));
    },
  });
  const go = (): void => {
    if (!isOutside || how === 'leave') add(ids);
    else if (how === 'link') setLinking(found.folder);
    else bring.mutate();
  };
  return (
    <>
      <DialogContent>
        <PathText path={found.path} most={70} />
        {found.otherProject && (
          <Box sx={{ mt: 1, borderLeft: '4px solid var(--ochre)', pl: 1.25, fontSize: 13 }}>
            It belongs to the project <strong>{found.otherProject}</strong>: whoever works there may move or change it.
          </Box>
        )}
        <Tables found={found} chosen={chosen} onChosen={setChosen} />
        {isOutside ? (
          <WhatBecomes found={found} how={how} onHow={setHow} keeps={keeps} onKeeps={setKeeps} />
        ) : (
          <Typography sx={{ mt: 1.5 }}>
            It is reached {found.reach === 'linked' ? 'through a linked folder' : 'inside the project'} already.
          </Typography>
        )}
        {bring.isError && <ErrorState error={bring.error} />}
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={ids.length === 0 || bring.isPending} onClick={go}>
          {!isOutside || how === 'leave' ? `Add ${many(ids.length, 'layer')}` : how === 'link' ? 'Link it…' : 'Bring it in and add it'}
        </Button>
      </DialogActions>
      {linking && (
        <LinkDialog project={project} at={linking} onAnother={setLinking} onLinked={() => add(ids)} onClose={() => setLinking(null)} />
      )}
    </>
  );
}

interface TablesProps {
  readonly found: OutsideView;
  readonly chosen: ReadonlySet<string>;
  readonly onChosen: (chosen: ReadonlySet<string>) => void;
}

/** Which of the tables of a container are meant. */
const Tables = ({ found, chosen, onChosen }: TablesProps) =>
  found.datasets.length < 2 ? null : (
    <Box role="group" aria-label="Tables" sx={{ mt: 1, maxHeight: 180, overflow: 'auto' }}>
      {found.datasets.map((d) => (
        <FormControlLabel
          key={d.id}
          sx={{ display: 'block' }}
          control={
            <Checkbox
              size="small"
              checked={chosen.has(d.id)}
              onChange={() => {
                const next = new Set(chosen);
                if (!next.delete(d.id)) next.add(d.id);
                onChosen(next);
              }}
            />
          }
          label={`${d.name}${d.count === null ? '' : `, ${number(d.count)} records`}`}
        />
      ))}
    </Box>
  );

interface WhatBecomesProps {
  readonly found: OutsideView;
  readonly how: How;
  readonly onHow: (how: How) => void;
  readonly keeps: boolean;
  readonly onKeeps: (keeps: boolean) => void;
}

const WhatBecomes = ({ found, how, onHow, keeps, onKeeps }: WhatBecomesProps) => (
  <>
    <RadioGroup value={how} onChange={(_, v) => onHow(v as How)} aria-label="What becomes of it" sx={{ mt: 1.5 }}>
      <Choice
        value="bring-in"
        title="Bring it in"
        hint={`${bytes(found.bytes)} are copied into the project with its companions and its origin. It moves with the project.`}
      />
      <Choice
        value="link"
        title="Link its folder"
        hint="The data stays shared; the project knows the folder by a name, and where it went is said once for all its layers."
      />
      <Choice value="leave" title="Leave it" hint="The map points at it by its whole address. It is lost when either of them moves." />
    </RadioGroup>
    <FormControlLabel
      control={<Checkbox size="small" checked={keeps} onChange={(e) => onKeeps(e.target.checked)} />}
      label="The same for everything from this folder"
    />
  </>
);

const Choice = ({ value, title, hint }: { value: How; title: string; hint: string }) => (
  <FormControlLabel
    value={value}
    control={<Radio size="small" />}
    sx={{ alignItems: 'flex-start', mb: 0.75 }}
    label={
      <Box sx={{ pt: 0.75 }}>
        {title}
        <Typography variant="body2" color="text.secondary">
          {hint}
        </Typography>
      </Box>
    }
  />
);
