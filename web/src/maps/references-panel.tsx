import { Box, Button, Checkbox, FormControlLabel, MenuItem, Stack, TextField, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { EditRequest, LayerView, MapView, PathRequest, ProjectView, ReferenceEdit } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { usePlaces } from '../api/queries.js';
import { EditDialog } from '../folders/edit-dialog.js';
import { many } from '../parts/format.js';
import { ErrorState } from '../parts/states.js';
import { LinkDialog } from '../sources/link-dialog.js';
import { folderOfLayer, ReferencesTable } from './references-table.js';
import { StoredFormDialog } from './stored-form-dialog.js';
import { useUrlState } from '../parts/use-url-state.js';

interface Props {
  readonly project: ProjectView;
  /** Null: all maps of the project. */
  readonly map: MapView | null;
  readonly layer: string | null;
  readonly isNarrow?: boolean;
}
type Act = ReferenceEdit['act'];
const ACTS: Readonly<Record<Act, { readonly button: string; readonly title: string; readonly hint: string }>> = {
  relative: {
    button: 'Store relatively',
    title: 'Store references relatively',
    hint: 'A relative reference starts at the map file, so the whole root can move.',
  },
  absolute: { button: 'Store absolutely', title: 'Store references absolutely', hint: 'An absolute reference names one drive or machine.' },
  'bring-in': {
    button: 'Bring in',
    title: 'Bring data into the project',
    hint: 'Their data is copied into the folder for originals with its companions and its origin; the layers use the copy.',
  },
  respell: {
    button: 'Spell as on disk',
    title: 'Spell references as on disk',
    hint: 'Disks that tell upper and lower case apart find them then, too.',
  },
};

/** The references of one map or of all: where each leads, in which form, and what can be done about it, for one, some or all. */
export function ReferencesPanel({ project, map, layer, isNarrow = false }: Props) {
  const { enqueueSnackbar } = useSnackbar();
  const places = usePlaces();
  const [switching, setSwitching] = useState<'relative' | 'absolute' | null>(null);
  const [acting, setActing] = useState<Act | null>(null);
  const [linking, setLinking] = useState<PathRequest | null>(null);
  const [isForNewMaps, setForNewMaps] = useState(false);
  const [folder, setFolder] = useState('');
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [search, set] = useUrlState();
  const isGrouped = search.get('group') === 'folder';
  const group = (on: boolean): void => set({ group: on ? 'folder' : null });
  const remember = useMutation({
    mutationFn: () => api.remember(project.key),
    onSuccess: (done) =>
      enqueueSnackbar(
        done.change
          ? `${many(done.applied, 'layer')} remembered, in ${many(done.change.files.length, 'map file')}.`
          : 'Every sound layer was remembered already; no file was changed.',
      ),
  });
  const all = useMemo(() => (map ? map.layers : project.maps.flatMap((m) => m.layers)), [map, project.maps]);
  const folders = useMemo(() => {
    const counts = new Map<string, number>();
    for (const l of all) counts.set(folderOfLayer(l), (counts.get(folderOfLayer(l)) ?? 0) + 1);
    return [...counts].sort((a, b) => (a[0] < b[0] ? -1 : 1));
  }, [all]);
  const layers = useMemo(() => (folder === '' ? all : all.filter((l) => folderOfLayer(l) === folder)), [all, folder]);
  const isBroken = (state: string): boolean => state !== 'sound' && state !== 'absent';
  const broken = all.filter((l) => isBroken(l.state));
  const ticked = layers.filter((l) => chosen.has(l.key));
  const outside = ticked.filter(isToBringIn);
  const linkable = ticked.find(isToLink);
  const edit: EditRequest | null =
    acting === null
      ? null
      : {
          kind: 'references',
          layers: (acting === 'bring-in' ? outside : ticked).map((l) => ({ map: mapOf(l, project), layer: l.layer, act: acting })),
        };
  const other = project.storedForm === 'relative' ? 'absolute' : 'relative';
  const start = (act: Act): void => {
    if (ticked.length === 0 && (act === 'relative' || act === 'absolute')) setSwitching(act);
    else setActing(act);
  };
  return (
    <>
      <Stack direction="row" spacing={1} useFlexGap sx={{ p: 1, alignItems: 'center', flexWrap: 'wrap' }}>
        {broken.length > 0 && (
          <Button component={Link} to={`/p/${project.key}/mend?layer=${encodeURIComponent(broken[0]!.key)}`} variant="contained">
            Mend {broken.length}
          </Button>
        )}
        {(['relative', 'absolute'] as const).map((act) => (
          <Button key={act} variant="outlined" onClick={() => start(act)}>
            {ACTS[act].button}
          </Button>
        ))}
        {ticked.length > 0 ? (
          <>
            <Button variant="outlined" disabled={outside.length === 0} onClick={() => start('bring-in')}>
              Bring in
            </Button>
            <Button variant="outlined" disabled={!linkable} onClick={() => linkable && setLinking(folderAt(linkable, places.data ?? []))}>
              Link its folder
            </Button>
            {ticked.some((l) => l.reason === 'spelling') && (
              <Button variant="outlined" onClick={() => start('respell')}>
                Spell as on disk
              </Button>
            )}
            <Typography variant="body2">{many(ticked.length, 'layer')} chosen</Typography>
          </>
        ) : (
          <>
            <Button onClick={() => remember.mutate()} disabled={remember.isPending}>
              Remember the data
            </Button>
            {map === null && <Button onClick={() => setForNewMaps(true)}>For new maps: {project.storedForm}</Button>}
          </>
        )}
        <FormControlLabel
          control={<Checkbox size="small" checked={isGrouped} onChange={(e) => group(e.target.checked)} />}
          label="By folder"
          sx={{ ml: 'auto', mr: 0 }}
          slotProps={{ typography: { variant: 'body2' } }}
        />
        <TextField
          select
          size="small"
          label="Folder"
          value={folder}
          onChange={(e) => setFolder(e.target.value)}
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
      </Stack>
      {remember.isError && <ErrorState error={remember.error} />}
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
      {switching && (
        <StoredFormDialog
          projectKey={project.key}
          map={map}
          form={switching}
          fixes={(kept) => {
            const l = all.find((x) => x.map === kept.map && x.layer === kept.layer);
            return (
              l && (
                <>
                  {isToBringIn(l) && (
                    <Button size="small" onClick={() => (setSwitching(null), setChosen(new Set([l.key])), setActing('bring-in'))}>
                      Bring it in
                    </Button>
                  )}
                  {isToLink(l) && (
                    <Button size="small" onClick={() => (setSwitching(null), setLinking(folderAt(l, places.data ?? [])))}>
                      Link its folder
                    </Button>
                  )}
                  {isBroken(l.state) && (
                    <Button size="small" component={Link} to={`/p/${project.key}/mend?layer=${encodeURIComponent(l.key)}`}>
                      Mend it
                    </Button>
                  )}
                </>
              )
            );
          }}
          onClose={() => setSwitching(null)}
        />
      )}
      {acting && (
        <EditDialog
          projectKey={project.key}
          title={ACTS[acting].title}
          edit={edit}
          button={`${ACTS[acting].button}: ${many(edit && 'layers' in edit ? edit.layers.length : 0, 'layer')}`}
          onClose={() => setActing(null)}
          onDone={() => setChosen(new Set())}
        >
          <Typography color="text.secondary" sx={{ mb: 1.5 }}>
            {ACTS[acting].hint}
          </Typography>
        </EditDialog>
      )}
      {isForNewMaps && (
        <EditDialog
          projectKey={project.key}
          title="How new maps store references"
          edit={{ kind: 'stored-form', form: other }}
          button={`New maps store ${other === 'relative' ? 'relatively' : 'absolutely'}`}
          onClose={() => setForNewMaps(false)}
        >
          <Typography color="text.secondary" sx={{ mb: 1.5 }}>
            Maps of this project store {project.storedForm === 'relative' ? 'relatively' : 'absolutely'} unless they say otherwise.{' '}
            {ACTS[other].hint} References that stand in maps already stay as they are.
          </Typography>
        </EditDialog>
      )}
      {linking && (
        <LinkDialog
          project={project}
          at={linking}
          onAnother={setLinking}
          onLinked={() => setLinking(null)}
          onClose={() => setLinking(null)}
        />
      )}
    </>
  );
}

const isToBringIn = (l: LayerView): boolean => l.state === 'sound' && (l.reach === 'outside' || l.reach === 'linked');
const isToLink = (l: LayerView): boolean => l.state === 'sound' && l.reach === 'outside';

const mapOf = (l: LayerView, project: ProjectView): string => project.maps.find((m) => m.path === l.map)!.relativePath;

/** The folder of a layer's data as a request names it. */
function folderAt(l: LayerView, places: readonly { readonly name: string; readonly folder: string }[]): PathRequest | null {
  const path = (l.resolved ?? '').replace(/\/[^/]*$/, '');
  const place = places
    .filter((p) => path === p.folder || path.startsWith(`${p.folder}/`))
    .sort((a, b) => b.folder.length - a.folder.length)[0];
  return place ? { place: place.name, path: path.slice(place.folder.length + 1) } : null;
}
