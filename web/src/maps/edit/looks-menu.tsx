import { mdiDeleteOutline } from '@mdi/js';
import { Box, Button, IconButton, Popover, TextField, Typography } from '@mui/material';
import { enqueueSnackbar } from 'notistack';
import { useRef, useState, type FormEvent } from 'react';
import { DEFAULT_NAMING, proposeName, type Field, type Label, type Look } from '@rootmap/core';
import type { KeptLook, LayerDataView } from '@rootmap/core/contract';
import { Icon } from '../../parts/icon.js';
import { ErrorState } from '../../parts/states.js';
import { saveText } from '../../parts/save-text.js';
import { useShelves } from '../use-shelves.js';
import { whyNot } from './look-shelf.js';
import { LookSwatch } from './swatch.js';

interface Props {
  readonly title: string;
  readonly kind: LayerDataView['kind'];
  readonly fields: readonly Field[];
  readonly look: Look;
  readonly label: Label | null;
  readonly onTake: (look: Look, label: Label | null) => void;
}

/** Looks kept for other maps and projects: a shelf, and style files of the open standard. */
export function LooksMenu(props: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button size="small" aria-haspopup="dialog" onClick={(e) => setAnchor(e.currentTarget)}>
        Kept looks
      </Button>
      {anchor && <Looks {...props} anchor={anchor} onClose={() => setAnchor(null)} />}
    </>
  );
}

type LooksProps = Props & { readonly anchor: HTMLElement; readonly onClose: () => void };

function Looks({ title, kind, fields, look, label, onTake, anchor, onClose }: LooksProps) {
  const { looks: shelf, error, keepLook: keep, dropLook: drop } = useShelves();
  const [name, setName] = useState(title);
  const own: KeptLook = { name: name.trim() || title, kind, look, label };
  const names = fields.map((f) => f.name);
  const put = (e: FormEvent): void => {
    e.preventDefault();
    keep(own);
  };
  const take = (l: Pick<KeptLook, 'look' | 'label'>): void => (onTake(l.look, l.label), onClose());
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      slotProps={{ paper: { role: 'dialog', 'aria-label': 'Kept looks', sx: { p: 1.5, width: 340, display: 'grid', gap: 1 } } }}
    >
      <Typography component="h2" sx={{ fontSize: 14, fontWeight: 700 }}>
        Kept looks
      </Typography>
      {error && <ErrorState error={error} />}
      {!error && shelf.length === 0 && (
        <Typography variant="body2" color="text.secondary">
          None yet. A look that is kept here can be given to layers of other maps and projects, by all who work with this Root Map.
        </Typography>
      )}
      <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', maxHeight: 220, overflow: 'auto' }}>
        {shelf.map((l) => (
          <Shelved key={l.name} kept={l} why={whyNot(l, kind, names)} onTake={() => take(l)} onDrop={() => drop(l.name)} />
        ))}
      </Box>
      <Box component="form" onSubmit={put} sx={{ display: 'flex', gap: 1 }}>
        <TextField size="small" label="Name" value={name} onChange={(e) => setName(e.target.value)} sx={{ flex: 1 }} />
        <Button type="submit" variant="outlined">
          {shelf.some((l) => l.name === own.name) ? 'Keep anew' : 'Keep this look'}
        </Button>
      </Box>
      <StyleFiles own={own} fields={fields} onTake={take} />
    </Popover>
  );
}

interface ShelvedProps {
  readonly kept: KeptLook;
  readonly why: string | null;
  readonly onTake: () => void;
  readonly onDrop: () => void;
}
const Shelved = ({ kept, why, onTake, onDrop }: ShelvedProps) => (
  <Box component="li" sx={{ display: 'flex', alignItems: 'center' }}>
    <Button size="small" disabled={why !== null} onClick={onTake} sx={{ flex: 1, justifyContent: 'flex-start', gap: 1, textAlign: 'left' }}>
      <LookSwatch look={kept.look} kind={kept.kind} />
      {kept.name}
      {why === null ? '' : `: ${why}`}
    </Button>
    <IconButton size="small" aria-label={`Take ${kept.name} off the shelf`} onClick={onDrop}>
      <Icon path={mdiDeleteOutline} sx={{ fontSize: 17 }} />
    </IconButton>
  </Box>
);

interface FilesProps {
  readonly own: KeptLook;
  readonly fields: readonly Field[];
  readonly onTake: (look: Pick<KeptLook, 'look' | 'label'>) => void;
}

/** As a style file: what a style has no place for is said. */
function StyleFiles({ own, fields, onTake }: FilesProps) {
  const input = useRef<HTMLInputElement>(null);
  const save = async (): Promise<void> => {
    const { lookFileOf } = await import('./look-file.js');
    saveText(`${proposeName(own.name, DEFAULT_NAMING)}.sld`, await lookFileOf(own), 'application/vnd.ogc.sld+xml');
  };
  const open = async (file: File): Promise<void> => {
    const { lookInFile } = await import('./look-file.js');
    const read = await lookInFile(await file.text(), fields);
    const why = read && whyNot({ kind: read.look.kind === 'raster' ? 'raster' : own.kind, look: read.look }, own.kind, fields.map((f) => f.name)); // prettier-ignore
    if (!read || why !== null) {
      enqueueSnackbar(`${file.name} is not taken: ${why ?? 'it is no style that can be read. Choose an SLD file'}.`, { variant: 'error' });
      return;
    }
    if (read.losses.length > 0) enqueueSnackbar(`Drawn otherwise than the style says: ${read.losses.join('; ')}.`);
    onTake(read);
  };
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
        <Button size="small" onClick={() => void save()}>
          Save as a style file
        </Button>
        <Button size="small" onClick={() => input.current?.click()}>
          Take from a style file
        </Button>
        <input
          ref={input}
          type="file"
          accept=".sld,.xml"
          aria-label="Style file"
          hidden
          onChange={(e) => {
            const [file] = e.target.files ?? [];
            if (file) void open(file);
            e.target.value = '';
          }}
        />
      </Box>
      {own.look.kind === 'raster' && (
        <Typography variant="body2" color="text.secondary">
          A style has no place for what is not drawn, what stands between pixels, and the range of three bands.
        </Typography>
      )}
    </>
  );
}
