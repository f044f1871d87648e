import { Box, Button } from '@mui/material';
import type { ReactNode } from 'react';
import { dateTime, many } from '../../parts/format.js';
import type { MapEditor } from './use-map-editor.js';

type What = 'restore' | 'forget' | 'drop';

/** What a person has to know before going on: others at work, work that was kept, a file that somebody else saved. */
export function EditorNotices({ editor, onDone }: { editor: MapEditor; onDone: (what: What) => void }) {
  const { others, restored, isOverwritten } = editor;
  const busy = others.filter((o) => o.hasChanges).length;
  return (
    <>
      {isOverwritten && (
        <Notice tone="plum">
          This map was saved elsewhere while you were editing it. Your changes are kept here and cannot be saved over it.{' '}
          <Button size="small" onClick={() => onDone('drop')}>
            Take the saved map, drop mine
          </Button>
        </Notice>
      )}
      {restored && (
        <Notice tone="ochre">
          Unsaved changes from {dateTime(restored.savedMs)} were kept when the map was closed.{' '}
          <Button size="small" onClick={() => onDone('restore')}>
            Take them up
          </Button>
          <Button size="small" onClick={() => onDone('forget')}>
            Give them up
          </Button>
        </Notice>
      )}
      {others.length > 0 && !isOverwritten && (
        <Notice tone="slate">
          {many(others.length, 'other window has', 'other windows have')} this map open
          {busy > 0 ? `, ${busy === others.length ? 'with' : `${busy} with`} unsaved changes` : ''}. Whoever saves second is asked first.
        </Notice>
      )}
    </>
  );
}

const Notice = ({ tone, children }: { tone: 'plum' | 'ochre' | 'slate'; children: ReactNode }) => (
  <Box
    role="status"
    sx={{ px: 1.5, py: 0.75, fontSize: 13, borderLeft: `4px solid var(--${tone})`, bgcolor: `var(--${tone}-wash)`, borderRadius: 1 }}
  >
    {children}
  </Box>
);
