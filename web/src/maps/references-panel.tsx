import { Box, Button, Checkbox, FormControlLabel, MenuItem, Stack, TextField, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { LayerView, MapView, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { usePlaces } from '../api/queries.js';
import { many } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import { useUrlState } from '../parts/use-url-state.js';
import { ACTS, folderAt, isBroken, isToBringIn, isToLink, type Act } from './reference-acts.js';
import { ReferencesDialogs, type ReferencesDialog } from './references-dialogs.js';
import { folderOfLayer, ReferencesTable } from './references-table.js';

interface Props {
  readonly project: ProjectView;
  /** Null: all maps of the project. */
  readonly map: MapView | null;
  readonly layer: string | null;
  readonly isNarrow?: boolean;
}

/** The references of one map or of all: where each leads, in which form, and what can be done about it, for one, some or all. */
export function ReferencesPanel({ project, map, layer, isNarrow = false }: Props) {
  const [dialog, setDialog] = useState<ReferencesDialog | null>(null);
  const [folder, setFolder] = useState('');
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [search, set] = useUrlState();
  const isGrouped = search.get('group') === 'folder';
  const all = useMemo(() => (map ? map.layers : project.maps.flatMap((m) => m.layers)), [map, project.maps]);
  const layers = useMemo(() => (folder === '' ? all : all.filter((l) => folderOfLayer(l) === folder)), [all, folder]);
  const broken = all.filter(isBroken);
  const ticked = layers.filter((l) => chosen.has(l.key));
  const start = (act: Act): void => {
    if (ticked.length === 0 && (act === 'relative' || act === 'absolute')) setDialog({ kind: 'switch', form: act });
    else setDialog({ kind: 'act', act, layers: act === 'bring-in' ? ticked.filter(isToBringIn) : ticked });
  };
  return (
    <>
      <Stack direction="row" spacing={1} useFlexGap sx={{ p: 1, alignItems: 'center', flexWrap: 'wrap' }}>
        {broken[0] && (
          <Button component={Link} to={`/p/${project.key}/mend?layer=${encodeURIComponent(broken[0].key)}`} variant="contained">
            Mend {broken.length}
          </Button>
        )}
        {(['relative', 'absolute'] as const).map((act) => (
          <Button key={act} variant="outlined" onClick={() => start(act)}>
            {ACTS[act].button}
          </Button>
        ))}
        {ticked.length > 0 ? (
          <ForChosen ticked={ticked} start={start} onDialog={setDialog} />
        ) : (
          <ForAll project={project} isOfAllMaps={map === null} onDialog={setDialog} />
        )}
        <FormControlLabel
          control={<Checkbox size="small" checked={isGrouped} onChange={(e) => set({ group: e.target.checked ? 'folder' : null })} />}
          label="By folder"
          sx={{ ml: 'auto', mr: 0 }}
          slotProps={{ typography: { variant: 'body2' } }}
        />
        <FolderChoice all={all} value={folder} onChange={setFolder} isNarrow={isNarrow} />
      </Stack>
      <Box sx={{ flex: 1, minHeight: 0 }}>
        <ReferencesTable
          project={project}
          layers={layers}
          showMap={map === null}
          marked={layer}
          isNarrow={isNarrow}
          isGrouped={isGrouped}
          chosen={chosen}
          onChoose={setChosen}
        />
      </Box>
      <ReferencesDialogs project={project} map={map} all={all} dialog={dialog} onDialog={setDialog} onDone={() => setChosen(new Set())} />
    </>
  );
}

interface ForChosenProps {
  readonly ticked: readonly LayerView[];
  readonly start: (act: Act) => void;
  readonly onDialog: (dialog: ReferencesDialog) => void;
}

/** What can be done with the layers that are chosen. */
function ForChosen({ ticked, start, onDialog }: ForChosenProps) {
  const places = usePlaces().data ?? [];
  const linkable = ticked.find(isToLink);
  const at = linkable ? folderAt(linkable, places) : null;
  return (
    <>
      <Button variant="outlined" disabled={!ticked.some(isToBringIn)} onClick={() => start('bring-in')}>
        Bring in
      </Button>
      <Button variant="outlined" disabled={at === null} onClick={() => at && onDialog({ kind: 'link', at })}>
        Link its folder
      </Button>
      {ticked.some((l) => l.reason === 'spelling') && (
        <Button variant="outlined" onClick={() => start('respell')}>
          Spell as on disk
        </Button>
      )}
      <Typography variant="body2">{many(ticked.length, 'layer')} chosen</Typography>
    </>
  );
}

interface ForAllProps {
  readonly project: ProjectView;
  readonly isOfAllMaps: boolean;
  readonly onDialog: (dialog: ReferencesDialog) => void;
}

function ForAll({ project, isOfAllMaps, onDialog }: ForAllProps) {
  const { enqueueSnackbar } = useSnackbar();
  const remember = useMutation({
    mutationFn: () => api.remember(project.key),
    onSuccess: (done) =>
      enqueueSnackbar(
        done.change
          ? `${many(done.applied, 'layer')} remembered, in ${many(done.change.files.length, 'map file')}.`
          : 'Every sound layer was remembered already; no file was changed.',
      ),
  });
  return (
    <>
      <Button onClick={() => remember.mutate()} disabled={remember.isPending}>
        Remember the data
      </Button>
      {isOfAllMaps && <Button onClick={() => onDialog({ kind: 'new-maps' })}>For new maps: {project.storedForm}</Button>}
      {remember.isError && <ErrorState error={remember.error} />}
    </>
  );
}

interface FolderChoiceProps {
  readonly all: readonly LayerView[];
  readonly value: string;
  readonly onChange: (folder: string) => void;
  readonly isNarrow: boolean;
}

function FolderChoice({ all, value, onChange, isNarrow }: FolderChoiceProps) {
  const folders = useMemo(() => {
    const counts = new Map<string, number>();
    for (const l of all) counts.set(folderOfLayer(l), (counts.get(folderOfLayer(l)) ?? 0) + 1);
    return [...counts].sort((a, b) => (a[0] < b[0] ? -1 : 1));
  }, [all]);
  return (
    <TextField
      select
      size="small"
      label="Folder"
      value={value}
      onChange={(e) => onChange(e.target.value)}
      sx={{ minWidth: isNarrow ? 150 : 220, maxWidth: 320 }}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
    >
      <MenuItem value="">All folders</MenuItem>
      {folders.map(([name, n]) => (
        <MenuItem key={name} value={name}>
          <span className="mono">{name === '' ? 'nowhere' : name}</span>&nbsp;({n})
        </MenuItem>
      ))}
    </TextField>
  );
}
