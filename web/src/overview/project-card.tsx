import { Box, Button, Link as MuiLink, Stack, TextField, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { CrsView, EditRequest, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { EditDialog } from '../folders/edit-dialog.js';
import { useSettled } from '../folders/use-edit.js';
import { CrsField } from '../new/crs-field.js';
import { many } from '../parts/format.js';
import { Fact } from '../parts/fact.js';
import { PathMenu } from '../parts/path-menu.js';
import { Sheet } from '../parts/states.js';

/** What the project says of itself, and what it is set to. */
export function ProjectCard({ project }: { project: ProjectView }) {
  const [isEditing, setEditing] = useState(false);
  const { summary, crs, workingGeodatabase, links, key } = project;
  const away = links.filter((l) => !l.present).length;
  return (
    <Sheet sx={{ p: 2 }}>
      <Stack direction="row" sx={{ justifyContent: 'space-between', alignItems: 'baseline' }}>
        <Typography variant="h2">About this project</Typography>
        {project.id !== null && (
          <Button size="small" aria-label="Change what the project says of itself" onClick={() => setEditing(true)}>
            Change
          </Button>
        )}
      </Stack>
      <Typography variant="body2" color={summary === '' ? 'text.secondary' : undefined} sx={{ mb: 1, whiteSpace: 'pre-line' }}>
        {summary === '' ? 'Nobody wrote down what it is for.' : summary}
      </Typography>
      <Stack spacing={0.5}>
        <Fact name="CRS">{crs ?? 'left open'}</Fact>
        <Fact name="Works in">
          <MuiLink component={Link} to={`/p/${key}/geodatabases`}>
            {workingGeodatabase ?? 'no geodatabase yet'}
          </MuiLink>
        </Fact>
        <Fact name="Links">
          <MuiLink component={Link} to={`/p/${key}/sources`}>
            {links.length === 0 ? 'none' : many(links.length, 'folder')}
          </MuiLink>
          {away > 0 && `, ${away} not here`}
        </Fact>
      </Stack>
      <Stack direction="row" useFlexGap spacing={1} sx={{ mt: 1, flexWrap: 'wrap' }}>
        <PathMenu project={project} path={project.root} />
      </Stack>
      {isEditing && <CardDialog project={project} onClose={() => setEditing(false)} />}
    </Sheet>
  );
}

function CardDialog({ project, onClose }: { project: ProjectView; onClose: () => void }) {
  const [title, setTitle] = useState(project.title);
  const [summary, setSummary] = useState(project.summary);
  /** Undefined: as it is. */
  const [chosen, setChosen] = useState<CrsView | null | undefined>(undefined);
  const before = useQuery({
    queryKey: keys.crs(project.crs),
    queryFn: () => api.searchCrs(project.crs!),
    enabled: project.crs !== null,
    staleTime: Infinity,
  });
  const known = before.data?.find((c) => c.code === project.crs) ?? null;
  const crs = chosen === undefined ? project.crs : (chosen?.code ?? null);
  const edit = useMemo(
    (): EditRequest | null => (title.trim() === '' ? null : { kind: 'card', title: title.trim(), summary: summary.trim(), crs }),
    [title, summary, crs],
  );
  const settled = useSettled(edit);
  return (
    <EditDialog
      projectKey={project.key}
      title="What the project says of itself"
      edit={settled}
      isSettling={settled !== edit}
      button="Keep it"
      onClose={onClose}
    >
      <Stack spacing={1.5} sx={{ mt: 1, mb: 2 }}>
        <TextField autoFocus size="small" label="Title" value={title} onChange={(e) => setTitle(e.target.value)} />
        <TextField
          size="small"
          multiline
          minRows={2}
          label="Summary"
          value={summary}
          onChange={(e) => setSummary(e.target.value)}
          helperText="What it is for. It goes along in the project file."
        />
        <CrsField
          value={chosen === undefined ? known : chosen}
          onChange={setChosen}
          hasMap={false}
          isWaiting={before.isLoading}
          hint="For what is made from now on."
        />
        {crs !== project.crs && <Follows project={project} crs={crs} />}
      </Stack>
    </EditDialog>
  );
}

/** What another CRS of the project means, and what it does not. */
const Follows = ({ project, crs }: { project: ProjectView; crs: string | null }) => {
  const others = project.datasets.filter((d) => d.crs !== null && d.crs !== crs).length;
  return (
    <Box role="note" sx={{ borderLeft: '3px solid var(--ochre)', pl: 1.25, fontSize: 13 }}>
      {many(project.maps.length, 'map')} and {many(project.datasets.length, 'dataset')} keep the CRS that they have: nothing is computed
      anew.{' '}
      {crs === null
        ? 'New maps take the CRS that suits their layers.'
        : `New maps, new datasets and what arrives go by ${crs} from now on; ${many(others, 'dataset')} ${others === 1 ? 'is' : 'are'} in another.`}
    </Box>
  );
};
