import { mdiClose } from '@mdi/js';
import { Button, IconButton, MenuItem, Stack, TextField } from '@mui/material';
import { NOTE_PLACES, type PageNote } from '@rootmap/core';
import { Icon } from '../../parts/icon.js';

const WORDS: Readonly<Record<PageNote['place'], string>> = {
  'lower-left': 'lower left',
  'lower-middle': 'lower middle',
  'upper-middle': 'upper middle',
  'lower-right': 'lower right',
};
const MOST = 8;

/** Texts on the map, each with its place. */
export function NoteFields({ notes, onNotes }: { notes: readonly PageNote[]; onNotes: (notes: readonly PageNote[]) => void }) {
  // The first is there without being asked for; an empty one is none.
  const shown = notes.length > 0 ? notes : [{ text: '', place: 'lower-left' } as const];
  const change = (i: number, of: Partial<PageNote>): void => onNotes(shown.map((n, k) => (k === i ? { ...n, ...of } : n)));
  return (
    <Stack spacing={1} role="group" aria-label="Texts on the map">
      {shown.map((note, i) => {
        const label = i === 0 ? 'Text on the map' : `Text ${i + 1} on the map`;
        return (
          <Stack key={i} direction="row" spacing={0.5} sx={{ alignItems: 'flex-start' }}>
            <TextField
              size="small"
              multiline
              maxRows={4}
              label={label}
              value={note.text}
              onChange={(e) => change(i, { text: e.target.value })}
              sx={{ flex: 1 }}
            />
            <TextField
              select
              size="small"
              value={note.place}
              onChange={(e) => change(i, { place: e.target.value as PageNote['place'] })}
              slotProps={{ select: { 'aria-label': `Where text ${i + 1} stands` } }}
              sx={{ width: 146 }}
            >
              {NOTE_PLACES.map((p) => (
                <MenuItem key={p} value={p}>
                  {WORDS[p]}
                </MenuItem>
              ))}
            </TextField>
            {i > 0 && (
              <IconButton size="small" aria-label={`Leave out text ${i + 1}`} onClick={() => onNotes(shown.filter((_, k) => k !== i))}>
                <Icon path={mdiClose} />
              </IconButton>
            )}
          </Stack>
        );
      })}
      {shown.length < MOST && shown.at(-1)!.text.trim() !== '' && (
        <Button sx={{ alignSelf: 'flex-start' }} onClick={() => onNotes([...shown, { text: '', place: 'lower-middle' }])}>
          Another text
        </Button>
      )}
    </Stack>
  );
}
