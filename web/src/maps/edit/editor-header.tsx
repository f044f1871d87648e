import { mdiRedo, mdiUndo } from '@mdi/js';
import { Box, Button, Checkbox, IconButton, InputBase, Link as MuiLink, ListItemText, Menu, MenuItem, TextField } from '@mui/material';
import { useState } from 'react';
import { Link } from 'react-router';
import type { MapDraft } from '@rootmap/core/contract';
import { clock, many } from '../../parts/format.js';
import { Icon } from '../../parts/icon.js';
import type { MapEditor } from './use-map-editor.js';

interface Props {
  readonly draft: MapDraft;
  readonly editor: MapEditor;
  readonly isSaving: boolean;
  readonly savingItem: string;
  readonly hasLand: boolean;
  readonly onTitle: (title: string) => void;
  readonly onSummary: (summary: string) => void;
  readonly onSave: () => void;
  readonly onSaveAs: () => void;
  readonly onBringIn: () => void;
  readonly onPrint: () => void;
  readonly onDigitise: () => void;
  /** Null: something is drawn, and the map is not free for it. */
  readonly onMeasure: (() => void) | null;
  readonly onLand: (on: boolean) => void;
}

/** Title, what is unsaved, and what can be done with the whole map. */
export function EditorHeader(props: Props) {
  const { draft, editor, isSaving, savingItem } = props;
  const [isSummary, setSummary] = useState(false);
  const { changes } = editor;
  return (
    <Box>
      <Box sx={{ display: 'flex', flexWrap: { xs: 'wrap', md: 'nowrap' }, alignItems: 'center', gap: 1 }}>
        <MuiLink component={Link} to=".." relative="path" sx={{ fontSize: 13, whiteSpace: 'nowrap' }}>
          All maps
        </MuiLink>
        <Box component="h1" sx={{ m: 0, flex: '0 1 auto', minWidth: 120, fontSize: 20 }}>
          <InputBase
            value={draft.title}
            onChange={(e) => props.onTitle(e.target.value)}
            inputProps={{ 'aria-label': 'Title of the map', size: Math.max(8, Math.min(32, draft.title.length)) }}
            sx={{ fontSize: 20, fontWeight: 700, '& input': { p: 0, textOverflow: 'ellipsis' } }}
          />
        </Box>
        <Saved editor={editor} isSaving={isSaving} item={savingItem} />
        <IconButton aria-label="Take the last step back" disabled={!editor.canUndo} onClick={editor.undo} size="small">
          <Icon path={mdiUndo} />
        </IconButton>
        <IconButton aria-label="Do it again" disabled={!editor.canRedo} onClick={editor.redo} size="small">
          <Icon path={mdiRedo} />
        </IconButton>
        <MoreMenu {...props} onSummary={() => setSummary(!isSummary)} />
        <Button variant="outlined" onClick={props.onBringIn} sx={{ whiteSpace: 'nowrap', flex: 'none' }}>
          Bring into map
        </Button>
        <Button variant="outlined" onClick={props.onPrint} sx={{ whiteSpace: 'nowrap', flex: 'none' }}>
          Print frame
        </Button>
        <Button
          variant="contained"
          disabled={changes === 0 || isSaving || editor.conflicts.length > 0}
          onClick={props.onSave}
          sx={{ whiteSpace: 'nowrap', flex: 'none' }}
        >
          Save map
        </Button>
      </Box>
      {isSummary && (
        <TextField
          fullWidth
          multiline
          size="small"
          label="Summary"
          value={draft.summary}
          onChange={(e) => props.onSummary(e.target.value)}
          sx={{ mt: 1 }}
        />
      )}
    </Box>
  );
}

/** How things stand between the draft and its file. */
function Saved({ editor: { changes, keptMs }, isSaving, item }: { editor: MapEditor; isSaving: boolean; item: string }) {
  return (
    <Box
      role="status"
      title={keptMs === null ? undefined : `Kept at ${clock(keptMs)}: a crash loses nothing of it. The file is as it was until you save.`}
      sx={{
        fontSize: 13,
        fontWeight: 650,
        color: changes > 0 ? 'var(--ochre)' : 'text.secondary',
        whiteSpace: 'nowrap',
        flex: 1,
        minWidth: 0,
        overflow: 'hidden',
        textOverflow: 'ellipsis',
      }}
    >
      {isSaving ? `saving… ${item}` : changes > 0 ? `unsaved: ${many(changes, 'change')}${keptMs === null ? '' : ', kept'}` : 'saved'}
    </Box>
  );
}

type MoreProps = Pick<Props, 'editor' | 'hasLand' | 'onDigitise' | 'onMeasure' | 'onLand' | 'onSaveAs' | 'isSaving'> & {
  readonly onSummary: () => void;
};

function MoreMenu({ editor, hasLand, isSaving, onSummary, onDigitise, onMeasure, onLand, onSaveAs }: MoreProps) {
  const [more, setMore] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button aria-haspopup="menu" onClick={(e) => setMore(e.currentTarget)} sx={{ minWidth: 0 }}>
        More
      </Button>
      <Menu anchorEl={more} open={more !== null} onClose={() => setMore(null)}>
        <MenuItem disabled={isSaving} onClick={() => (setMore(null), onSaveAs())}>
          Save under another name
        </MenuItem>
        <MenuItem onClick={() => (setMore(null), onSummary())}>Summary of the map</MenuItem>
        <MenuItem onClick={() => (setMore(null), onDigitise())}>Draw a new dataset</MenuItem>
        <MenuItem disabled={onMeasure === null} onClick={() => (setMore(null), onMeasure?.())}>
          Measure a length or an area
        </MenuItem>
        <MenuItem role="menuitemcheckbox" aria-checked={hasLand} onClick={() => onLand(!hasLand)}>
          <Checkbox size="small" checked={hasLand} tabIndex={-1} aria-hidden sx={{ p: 0.5 }} />
          <ListItemText secondary="from about 1:400 000 outwards">Land outline</ListItemText>
        </MenuItem>
        <MenuItem disabled={editor.changes === 0} onClick={() => (setMore(null), editor.drop())}>
          Drop the unsaved changes
        </MenuItem>
      </Menu>
    </>
  );
}
