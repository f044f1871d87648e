import { Alert, Box, Button, Stack, TextField, ToggleButton, ToggleButtonGroup } from '@mui/material';
import { visuallyHidden } from '@mui/utils';
import { useQueryClient } from '@tanstack/react-query';
import { enqueueSnackbar } from 'notistack';
import { lazy, Suspense, useCallback, useDeferredValue, useMemo, useState } from 'react';
import type { Role } from '@rootmap/core';
import type { EditRequest, FoldersView, PathRequest, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, useFolders, usePlaces } from '../api/queries.js';
import { useOpenProject } from '../frame/use-project.js';
import { sideBySide, tableRoom } from '../parts/side-by-side.js';
import { many } from '../parts/format.js';
import { ErrorState, Sheet, sentenceOf, Waiting } from '../parts/states.js';
import { useUrlState } from '../parts/use-url-state.js';
import { AddFoldersDialog } from './add-folders-dialog.js';
import { BringInDialog } from './bring-in-dialog.js';
import { CopyDialog } from './copy-dialog.js';
import { DetailsPanel, type DetailActions } from './details-panel.js';
import { EditDialog } from './edit-dialog.js';
import { nameOf, isOwn, linkRows, rowsOf, treeOf, withoutInner, type Row } from './folder-rows.js';
import type { DropTarget } from './drop-target.js';
import { FolderTree, type TreeActions } from './folder-tree.js';
import { moveInto, moveTo, trash, type MoveEdit } from './moves.js';
import { NamesView } from './names-view.js';
import { RenameDialog } from './rename-dialog.js';
import { useApplyEdit } from './use-edit.js';
import { useLinkedFolders } from './use-linked-folders.js';
import { useSelection, type Selection } from './use-selection.js';

const SpaceView = lazy(() => import('./space-view.js').then((m) => ({ default: m.SpaceView })));
const FolderChooser = lazy(() => import('../parts/folder-chooser.js').then((m) => ({ default: m.FolderChooser })));

type View = 'tree' | 'names' | 'space';

/** The project's folders: what is where, what it is for, what it is called, and what it weighs. */
export function FoldersPage() {
  const project = useOpenProject();
  const folders = useFolders(project.key);
  if (folders.isError) return <ErrorState error={folders.error} onRetry={() => void folders.refetch()} />;
  if (!folders.data) return <Waiting what="Looking through the folders…" />;
  return <Open key={project.key} projectKey={project.key} view={folders.data} />;
}

function Open({ projectKey, view }: { projectKey: string; view: FoldersView }) {
  const [search, set] = useUrlState();
  const shown = (search.get('view') as View | null) ?? 'tree';
  const words = useDeferredValue(search.get('with') ?? ''); // letters are not kept waiting by ten thousand rows
  const names = new Set(view.findings.map((f) => f.path)).size;
  const [bringing, setBringing] = useState<'choose' | PathRequest | 'itself' | null>(null);
  const [adding, setAdding] = useState<string | null | false>(false);
  return (
    <Box sx={{ height: '100%', boxSizing: 'border-box', p: 1.5, display: 'flex', flexDirection: 'column', gap: 1 }}>
      <Box component="h1" sx={visuallyHidden}>
        Folders
      </Box>
      <Stack direction="row" sx={{ alignItems: 'center', flexWrap: { xs: 'wrap', md: 'nowrap' }, gap: 1 }}>
        <ToggleButtonGroup
          size="small"
          exclusive
          value={shown}
          aria-label="View"
          onChange={(_, v: View | null) => v && set({ view: v === 'tree' ? null : v }, { step: true, afresh: true })}
        >
          <ToggleButton value="tree">Tree</ToggleButton>
          <ToggleButton value="names">Names{names > 0 ? ` (${names})` : ''}</ToggleButton>
          <ToggleButton value="space">Space</ToggleButton>
        </ToggleButtonGroup>
        {shown === 'tree' && (
          <TextField
            placeholder="Show only names with…"
            value={search.get('with') ?? ''}
            onChange={(e) => set({ with: e.target.value })}
            slotProps={{ htmlInput: { 'aria-label': 'Show only names with' } }}
            sx={{ width: 240, '& .MuiInputBase-root': { height: 34 } }}
          />
        )}
        <Box sx={{ flex: 1 }} />
        {view.isProject ? (
          <>
            <Button disabled={view.readOnly} onClick={() => setAdding(null)}>
              Add folders from a plan
            </Button>
            <Button variant="outlined" disabled={view.readOnly} onClick={() => setBringing('choose')}>
              Bring a folder in
            </Button>
          </>
        ) : (
          <Button variant="contained" disabled={view.readOnly} onClick={() => setBringing('itself')}>
            Make this folder a project
          </Button>
        )}
      </Stack>
      <Notices projectKey={projectKey} view={view} />
      <Box sx={{ flex: 1, minHeight: 0 }}>
        {shown === 'names' ? (
          <NamesView projectKey={projectKey} view={view} />
        ) : shown === 'space' ? (
          <Suspense fallback={<Waiting what="Adding up…" />}>
            <SpaceView projectKey={projectKey} view={view} />
          </Suspense>
        ) : (
          <TreeView projectKey={projectKey} view={view} words={words} onAddFolder={setAdding} />
        )}
      </Box>
      {adding !== false && <AddFoldersDialog projectKey={projectKey} within={adding} onClose={() => setAdding(false)} />}
      {bringing === 'itself' && <BringInDialog projectKey={projectKey} view={view} grown={null} onClose={() => setBringing(null)} />}
      {bringing !== null && typeof bringing === 'object' && (
        <BringInDialog projectKey={projectKey} view={view} grown={bringing} onClose={() => setBringing(null)} />
      )}
      <Suspense>
        {bringing === 'choose' && (
          <FolderChooser
            open
            title="Which folder is to be brought in?"
            useFolderLabel="Bring this folder in"
            onClose={() => setBringing(null)}
            onChoose={setBringing}
          />
        )}
      </Suspense>
    </Box>
  );
}

/** What a person should know before anything else in these folders. */
function Notices({ projectKey, view }: { projectKey: string; view: FoldersView }) {
  const client = useQueryClient();
  const protect = useApplyEdit(projectKey, () => undefined);
  const accept = (): void => {
    api.acceptOriginals(projectKey).then(
      () => void client.invalidateQueries({ queryKey: keys.folders(projectKey) }),
      (error: unknown) => enqueueSnackbar(sentenceOf(error), { variant: 'error' }),
    );
  };
  return (
    <>
      {view.tampered.length > 0 && (
        <Alert
          severity="warning"
          action={
            <Button color="inherit" onClick={accept}>
              Take them as they are now
            </Button>
          }
        >
          {many(view.tampered.length, 'original')} not as when {view.tampered.length === 1 ? 'it' : 'they'} came:{' '}
          {view.tampered
            .slice(0, 4)
            .map((t) => `${nameOf(t.path)} (${t.why === 'changed' ? 'changed outside the app' : 'gone'})`)
            .join(', ')}
          {view.tampered.length > 4 ? ' …' : '.'}
        </Alert>
      )}
      {view.unprotected > 0 && !view.readOnly && (
        <Alert
          severity="info"
          action={
            <Button color="inherit" onClick={() => protect.mutate({ kind: 'protect' })}>
              Set them read-only
            </Button>
          }
        >
          {many(view.unprotected, 'file')} among the originals can be written to by any program.
        </Alert>
      )}
      {view.skipped.length > 0 && (
        <Alert severity="info">
          Not looked at:{' '}
          {view.skipped
            .slice(0, 3)
            .map((s) => s.why)
            .join(' ')}{' '}
          {view.skipped.length > 3 ? `And ${view.skipped.length - 3} more.` : ''}
        </Alert>
      )}
    </>
  );
}

interface TreeViewProps {
  readonly projectKey: string;
  readonly view: FoldersView;
  readonly words: string;
  readonly onAddFolder: (within: string) => void;
}

type Doing =
  | { readonly kind: 'edit'; readonly title: string; readonly button: string; readonly edit: EditRequest }
  | { readonly kind: 'rename'; readonly path: string; readonly isFolder: boolean }
  | { readonly kind: 'copy'; readonly path: string; readonly isOriginal: boolean };

function TreeView({ projectKey, view, words, onAddFolder }: TreeViewProps) {
  const project = useOpenProject();
  const tree = useMemo(() => treeOf(view), [view]);
  const [open, setOpen] = useState<ReadonlySet<string>>(() => new Set(firstOpen(view)));
  const linked = useLinkedFolders(project, open);
  const rows = useMemo(
    () => [
      ...rowsOf(tree, nameOf(project.path) || project.title, open, words),
      ...linked.flatMap(({ name, content }) => linkRows(name, content, open, words)),
    ],
    [tree, project, open, words, linked],
  );
  const selection = useSelection(null);
  const [cut, setCut] = useState<ReadonlySet<string>>(new Set());
  const [doing, setDoing] = useState<Doing | null>(null);
  const selected = rows.filter((r) => selection.paths.has(r.path));
  const toggle = useCallback(
    (path: string, wanted?: boolean) =>
      setOpen((before) => {
        const now = new Set(before);
        if (wanted ?? !before.has(path)) now.add(path);
        else now.delete(path);
        return now;
      }),
    [],
  );
  const elsewhere = useElsewhere(project);
  const [choosing, setChoosing] = useState<Choosing | null>(null);
  const { actions, confirmMove } = useTreeActions({ project, rows, selection, cut, setCut, setDoing, setChoosing, toggle, onAddFolder });
  return (
    <Box sx={{ ...sideBySide('minmax(0, 1fr) 300px'), gap: 1.5 }}>
      <Sheet sx={{ ...tableRoom(768), display: 'flex', flexDirection: 'column', minHeight: 0 }}>
        <FolderTree projectKey={projectKey} rows={rows} elsewhere={elsewhere} selection={selection} cut={cut} actions={actions} />
      </Sheet>
      <DetailsPanel view={view} rows={selected} cutCount={cut.size} actions={actions} />
      {doing && (
        <Doings
          projectKey={projectKey}
          view={view}
          doing={doing}
          onClose={() => {
            setDoing(null);
            if (doing.kind === 'edit' && doing.edit.kind === 'move') setCut(new Set());
          }}
          onMoved={(edit) => select(edit, project, selection.select, toggle)}
        />
      )}
      <Suspense>
        {choosing && (
          <FolderChooser
            open
            title="Move it into which folder?"
            useFolderLabel="Move into this folder"
            start={choosing.start}
            onClose={() => setChoosing(null)}
            onChoose={(at) => {
              setChoosing(null);
              confirmMove(moveTo(project, choosing.paths, at), [at.place, at.path].filter(Boolean).join('/'));
            }}
          />
        )}
      </Suspense>
    </Box>
  );
}

/** What is to be moved, while the folder that it goes to is chosen. */
interface Choosing {
  readonly paths: readonly string[];
  readonly start: PathRequest | null;
}
interface TreeParts {
  readonly project: ProjectView;
  readonly rows: readonly Row[];
  readonly selection: Selection;
  readonly cut: ReadonlySet<string>;
  readonly setCut: (paths: ReadonlySet<string>) => void;
  readonly setDoing: (doing: Doing) => void;
  readonly setChoosing: (choosing: Choosing) => void;
  readonly toggle: TreeActions['toggle'];
  readonly onAddFolder: DetailActions['addFolder'];
}

/** All that can be done with what is in the tree; each is shown before it is done. */
function useTreeActions(parts: TreeParts) {
  const { project, rows, selection, cut, setCut, setDoing, setChoosing, toggle, onAddFolder } = parts;
  const confirmMove = (edit: MoveEdit | null, where: string): void => {
    if (!edit) return;
    const what = edit.moves.length === 1 ? nameOf(edit.moves[0]!.from.path) : many(edit.moves.length, 'thing');
    setDoing({ kind: 'edit', title: `Move ${what} to ${where}`, button: `Move ${what}`, edit });
  };
  const moveHere = (paths: readonly string[], folder: string): void =>
    confirmMove(moveInto(project, paths, folder), folder === '' ? 'the root' : folder);
  const move = (paths: readonly string[], target: DropTarget): void => {
    if (target.kind === 'folder') moveHere(paths, target.folder);
    else if (target.kind === 'link') confirmMove(moveTo(project, paths, target.at), target.name);
    else setChoosing({ paths, start: target.at });
  };
  const actions: TreeActions & DetailActions = {
    toggle,
    move,
    cut: () => setCut(new Set(withoutInner([...selection.paths].filter(isOwn)))),
    paste: (folder) => moveHere([...cut], folder),
    moveTo: moveHere,
    moveElsewhere: (paths) => setChoosing({ paths, start: null }),
    rename: (path) => setDoing({ kind: 'rename', path, isFolder: rows.find((r) => r.path === path)?.kind === 'folder' }),
    remove: (paths) => {
      const wanted = withoutInner(paths.filter(isOwn));
      if (wanted.length === 0) return;
      const what = wanted.length === 1 ? nameOf(wanted[0]!) : many(wanted.length, 'thing');
      setDoing({ kind: 'edit', title: `Delete ${what}, into the trash`, button: 'Move to the trash', edit: trash(project, wanted) });
    },
    setRole: (path, role: Role | null) =>
      setDoing({
        kind: 'edit',
        title: roleTitle(path, role),
        button: role === null ? 'Take the role away' : 'Set the role',
        edit: { kind: 'role', path, role },
      }),
    addFolder: onAddFolder,
    workingCopy: (path) => setDoing({ kind: 'copy', path, isOriginal: rows.find((r) => r.path === path)?.role === 'originals' }),
  };
  return { actions, confirmMove };
}

/** Linked folders and other places, for what is dropped outside the tree. */
function useElsewhere(project: ProjectView): DropTarget[] {
  const places = usePlaces().data ?? [];
  const links = project.links.flatMap((l): DropTarget[] => {
    const place = places.find((p) => p.name === l.place);
    if (!l.present || !l.path || !place || place.readOnly) return [];
    return [
      { kind: 'link', name: `link ${l.name}`, at: { place: place.name, path: l.path.slice(place.folder.length).replace(/^\//, '') } },
    ];
  });
  const others = places
    .filter((p) => p.present && !p.readOnly)
    .map((p): DropTarget => ({ kind: 'place', name: p.name, at: { place: p.name, path: '' } }));
  return [...links, ...others];
}

const roleTitle = (path: string, role: Role | null): string =>
  role === null ? `Take the role from ${path}` : `Make ${path} a folder for ${role}`;

/** Two levels, if that is not more than a screen or two. */
function firstOpen(view: FoldersView): string[] {
  const top = view.folders.filter((f) => f.path !== '' && !f.path.includes('/')).map((f) => f.path);
  const shown =
    view.things.filter((t) => t.path.split('/').length <= 2).length + view.folders.filter((f) => f.path.split('/').length <= 2).length;
  return shown <= 80 ? top : [];
}

/** What was moved is shown where it is now. */
function select(
  edit: EditRequest,
  project: ProjectView,
  choose: (paths: string[], focus: string | null) => void,
  toggle: (path: string, open: boolean) => void,
): void {
  if (edit.kind !== 'move') return;
  const root = project.path === '' ? '' : `${project.path}/`;
  const paths = edit.moves.flatMap(({ to }) =>
    to.place === project.place && to.path.startsWith(root) ? [to.path.slice(root.length)] : [],
  );
  const [first] = paths;
  if (first === undefined) return;
  for (let at = first.lastIndexOf('/'); at > 0; at = first.lastIndexOf('/', at - 1)) toggle(first.slice(0, at), true);
  choose(paths, first);
}

interface DoingsProps {
  readonly projectKey: string;
  readonly view: FoldersView;
  readonly doing: Doing;
  readonly onClose: () => void;
  readonly onMoved: (edit: EditRequest) => void;
}

function Doings({ projectKey, view, doing, onClose, onMoved }: DoingsProps) {
  switch (doing.kind) {
    case 'rename':
      return <RenameDialog projectKey={projectKey} path={doing.path} isFolder={doing.isFolder} naming={view.naming} onClose={onClose} />;
    case 'copy':
      return <CopyDialog projectKey={projectKey} view={view} path={doing.path} isOriginal={doing.isOriginal} onClose={onClose} />;
    case 'edit':
      return (
        <EditDialog
          projectKey={projectKey}
          title={doing.title}
          button={doing.button}
          edit={doing.edit}
          onClose={onClose}
          onDone={() => onMoved(doing.edit)}
        />
      );
  }
}
