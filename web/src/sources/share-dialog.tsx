import { Button, Stack, Typography } from '@mui/material';
import { lazy, Suspense, useMemo, useState } from 'react';
import type { EditRequest, PathRequest, ProjectView, SourcesView } from '@rootmap/core/contract';
import { usePlaces } from '../api/queries.js';
import { EditDialog } from '../folders/edit-dialog.js';
import { inRoot } from '../folders/moves.js';
import { PathText } from '../parts/path-text.js';
import type { DatasetRow } from './dataset-rows.js';

const FolderChooser = lazy(() => import('../parts/folder-chooser.js').then((m) => ({ default: m.FolderChooser })));

interface Props {
  readonly project: ProjectView;
  readonly sources: SourcesView | undefined;
  readonly row: DatasetRow;
  readonly onClose: () => void;
}

/** Own data becomes shared, or shared data this project's own: a move that every map follows. */
export function ShareDialog({ project, sources, row, onClose }: Props) {
  const { dataset: d } = row;
  const places = usePlaces().data;
  const [choosing, setChoosing] = useState(false);
  const toPlace = (path: string): PathRequest | null => {
    const place = places?.filter((p) => path.startsWith(`${p.folder}/`)).sort((a, b) => b.folder.length - a.folder.length)[0];
    return place ? { place: place.name, path: path.slice(place.folder.length + 1) } : null;
  };
  const isOwn = d.link === null;
  const choices: readonly { readonly name: string; readonly at: PathRequest }[] = isOwn
    ? project.links.flatMap((l) => {
        const at = l.present && l.path ? toPlace(l.path) : null;
        return at ? [{ name: l.name, at }] : [];
      })
    : (sources?.originals ?? []).map((folder) => ({ name: folder, at: inRoot(project, folder) }));
  const [into, setInto] = useState<PathRequest | null>(choices[0]?.at ?? null);
  const path = d.id.replace(/#[^/]*$/, '');
  const from = toPlace(path);
  const edit = useMemo((): EditRequest | null => {
    if (!from || !into) return null;
    const to = { place: into.place, path: `${into.path === '' ? '' : `${into.path}/`}${path.slice(path.lastIndexOf('/') + 1)}` };
    return { kind: 'move', moves: [{ from, to }], evenOriginals: false, grown: null };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- an address is made anew at each render, its parts are what counts
  }, [from?.place, from?.path, into, path]);
  return (
    <EditDialog
      projectKey={project.key}
      title={isOwn ? `Share ${d.name} with other projects` : `Make ${d.name} this project's own`}
      edit={edit}
      button={isOwn ? 'Share it' : 'Move it here'}
      onClose={onClose}
    >
      <Typography variant="body2" sx={{ mb: 1 }}>
        {isOwn
          ? 'It goes to a folder that many projects link, and stands there once. Every layer that uses it follows.'
          : 'It leaves the shared folder: other projects that use it will reach into this one.'}
      </Typography>
      <Stack direction="row" sx={{ flexWrap: 'wrap', gap: 1, mb: 1 }}>
        {choices.map((c) => (
          <Button
            key={c.name}
            variant={into?.place === c.at.place && into.path === c.at.path ? 'contained' : 'outlined'}
            onClick={() => setInto(c.at)}
          >
            {c.name}
          </Button>
        ))}
        <Button onClick={() => setChoosing(true)}>Another folder…</Button>
      </Stack>
      {into && <PathText path={`${into.place}/${into.path}`} most={70} />}
      <Suspense>
        {choosing && (
          <FolderChooser
            open
            title="Which folder?"
            useFolderLabel="Use this folder"
            start={into}
            onClose={() => setChoosing(false)}
            onChoose={(at) => {
              setInto(at);
              setChoosing(false);
            }}
          />
        )}
      </Suspense>
    </EditDialog>
  );
}
