import {
  Box,
  Breadcrumbs,
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  Link,
  List,
  ListItemButton,
  ListItemIcon,
  ListItemText,
  Stack,
  TextField,
  Typography,
} from '@mui/material';
import { mdiArchiveOutline, mdiFileOutline, mdiFolderOutline, mdiFolderStarOutline } from '@mdi/js';
import { useState } from 'react';
import type { FolderView, PathRequest, PlaceView } from '@rootmap/core/contract';
import { useFolder, usePlaces } from '../api/queries.js';
import { bytes, many } from './format.js';
import { Icon } from './icon.js';
import { locatePasted } from './locate-pasted.js';
import { ErrorState, Waiting } from './states.js';

interface Props {
  readonly open: boolean;
  readonly title: string;
  /** Verb of the button for the folder one is in. Left out: only files are chosen. */
  readonly useFolderLabel?: string;
  /** Files that can be chosen too. */
  readonly acceptsFile?: (name: string) => boolean;
  /** Offers a name for something new in the folder one is in. */
  readonly newName?: { readonly label: string; readonly initial: string; readonly button: string };
  readonly start?: PathRequest | null;
  readonly onChoose: (at: PathRequest) => void;
  readonly onClose: () => void;
}

const below = (at: PathRequest, name: string): PathRequest => ({ place: at.place, path: at.path === '' ? name : `${at.path}/${name}` });

/** Chooses a folder or a file inside the places: places first, 'use this folder' at every level, a pasted path is taken. */
export function FolderChooser(props: Props) {
  return (
    <Dialog open={props.open} onClose={props.onClose} maxWidth="md" fullWidth aria-labelledby="chooser-title">
      {props.open && <Chooser {...props} />}
    </Dialog>
  );
}

function Chooser({ title, useFolderLabel, acceptsFile, newName, start, onChoose, onClose }: Props) {
  const places = usePlaces();
  const [at, setAt] = useState<PathRequest | null>(start ?? null);
  const folder = useFolder(at);
  const [name, setName] = useState(newName?.initial ?? '');
  return (
    <>
      <DialogTitle id="chooser-title" variant="h2">
        {title}
      </DialogTitle>
      <DialogContent sx={{ display: 'grid', gridTemplateColumns: { xs: 'minmax(0, 1fr)', sm: '220px 1fr' }, gap: 2, height: 440 }}>
        <PlaceList places={places.data ?? []} at={at} onOpen={setAt} />
        <Stack sx={{ minHeight: 0 }}>
          <PastedPath places={places.data ?? []} onOpen={setAt} />
          {at && <Trailing at={at} onOpen={setAt} />}
          <Box sx={{ flex: 1, overflow: 'auto', border: '1px solid var(--rule)', borderRadius: 1 }}>
            {at === null ? (
              <Typography color="text.secondary" sx={{ p: 2 }}>
                Choose a place on the left, or paste a path above.
              </Typography>
            ) : folder.isError ? (
              <ErrorState error={folder.error} onRetry={() => void folder.refetch()} />
            ) : folder.data ? (
              <Contents view={folder.data} acceptsFile={acceptsFile} onOpen={setAt} onChoose={onChoose} />
            ) : (
              <Waiting what="Opening the folder…" />
            )}
          </Box>
        </Stack>
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button onClick={onClose}>Cancel</Button>
        <Box sx={{ flex: 1 }} />
        {newName && at && (
          <>
            <TextField
              label={newName.label}
              value={name}
              onChange={(e) => setName(e.target.value)}
              slotProps={{ htmlInput: { className: 'mono' } }}
              sx={{ width: 280 }}
            />
            <Button variant="contained" disabled={name.trim() === ''} onClick={() => onChoose(below(at, name.trim()))}>
              {newName.button}
            </Button>
          </>
        )}
        {useFolderLabel && (
          <Button variant={newName ? 'outlined' : 'contained'} disabled={at === null || !folder.data} onClick={() => onChoose(at!)}>
            {useFolderLabel}
          </Button>
        )}
      </DialogActions>
    </>
  );
}

function PlaceList({ places, at, onOpen }: { places: readonly PlaceView[]; at: PathRequest | null; onOpen: (at: PathRequest) => void }) {
  return (
    <List dense aria-label="Places" sx={{ overflow: 'auto' }}>
      {places.map((p) => (
        <ListItemButton
          key={p.name}
          selected={at?.place === p.name}
          disabled={!p.present}
          onClick={() => onOpen({ place: p.name, path: '' })}
        >
          <ListItemText primary={p.name} secondary={p.present ? (p.driveNames[0] ?? p.folder) : 'absent'} />
        </ListItemButton>
      ))}
    </List>
  );
}

/** A path as it was copied somewhere: a real path or one with a drive name. */
function PastedPath({ places, onOpen }: { places: readonly PlaceView[]; onOpen: (at: PathRequest) => void }) {
  const [text, setText] = useState('');
  const go = (): void => {
    const found = locatePasted(text, places);
    if (found) onOpen(found);
  };
  const unknown = text.trim() !== '' && locatePasted(text, places) === null;
  return (
    <TextField
      label="Paste a path"
      value={text}
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') go();
      }}
      error={unknown}
      helperText={unknown ? 'No place has that path.' : 'Enter opens it'}
      slotProps={{ htmlInput: { className: 'mono' } }}
      sx={{ mt: 1 }}
    />
  );
}

function Trailing({ at, onOpen }: { at: PathRequest; onOpen: (at: PathRequest) => void }) {
  const parts = at.path === '' ? [] : at.path.split('/');
  return (
    <Breadcrumbs sx={{ py: 0.5 }} aria-label="Folder">
      <Link component="button" onClick={() => onOpen({ place: at.place, path: '' })}>
        {at.place}
      </Link>
      {parts.map((part, i) => (
        <Link key={i} component="button" onClick={() => onOpen({ place: at.place, path: parts.slice(0, i + 1).join('/') })}>
          {part}
        </Link>
      ))}
    </Breadcrumbs>
  );
}

function Contents({
  view,
  acceptsFile,
  onOpen,
  onChoose,
}: {
  view: FolderView;
  acceptsFile: Props['acceptsFile'];
  onOpen: (at: PathRequest) => void;
  onChoose: (at: PathRequest) => void;
}) {
  const files = view.files.filter((f) => acceptsFile?.(f.name));
  if (view.folders.length + files.length === 0)
    return (
      <Typography color="text.secondary" sx={{ p: 2 }}>
        {view.isEmpty
          ? 'This folder is empty.'
          : `No folder in here. ${view.files.length > 0 ? `It holds ${many(view.files.length, 'file')}, and none of them is asked for.` : ''}`}
      </Typography>
    );
  return (
    <List dense>
      {view.folders.map((f) => (
        <ListItemButton key={f.name} onClick={() => onOpen(below(view, f.name))}>
          <ListItemIcon sx={{ minWidth: 32 }}>
            <Icon path={f.isProject ? mdiFolderStarOutline : mdiFolderOutline} />
          </ListItemIcon>
          <ListItemText primary={f.name} secondary={f.isProject ? 'project' : undefined} />
        </ListItemButton>
      ))}
      {files.map((f) => (
        <ListItemButton key={f.name} onClick={() => onChoose(below(view, f.name))}>
          <ListItemIcon sx={{ minWidth: 32 }}>
            <Icon path={/\.zip$/i.test(f.name) ? mdiArchiveOutline : mdiFileOutline} />
          </ListItemIcon>
          <ListItemText primary={f.name} secondary={bytes(f.bytes)} />
        </ListItemButton>
      ))}
    </List>
  );
}
