import { Box, Button } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { dateTime, many } from '../../parts/format.js';
import { ConflictsDialog } from './conflicts-dialog.js';
import type { MapEditor } from './use-map-editor.js';

type What = 'restore' | 'forget' | 'drop';

/** What a person has to know before going on: others at work, work that was kept, a file that somebody else saved. */
export function EditorNotices({ editor, onDone }: { editor: MapEditor; onDone: (what: What) => void }) {
  const { others, restored, conflicts, isMerged } = editor;
  const [isChoosing, setChoosing] = useState(false);
  const busy = others.filter((o) => o.hasChanges).length;
  return (
    <>
      {conflicts.length > 0 && (
        <Notice tone="plum">
          This map was saved elsewhere while you were editing it, and {many(conflicts.length, 'thing was', 'things were')} changed there and
          here.{' '}
          <Button size="small" onClick={() => setChoosing(true)}>
            Choose which holds
          </Button>
          <Button size="small" onClick={() => onDone('drop')}>
            Take the saved map, drop mine
          </Button>
        </Notice>
      )}
      {isMerged && conflicts.length === 0 && (
        <Notice tone="slate">
          This map was saved elsewhere while you were editing it. What was changed there is here now, with your changes.{' '}
          <Button size="small" onClick={editor.onMergeSeen}>
            Good
          </Button>
        </Notice>
      )}
      {isChoosing && conflicts.length > 0 && (
        <ConflictsDialog
          conflicts={conflicts}
          onClose={() => setChoosing(false)}
          onChosen={(taken) => {
            setChoosing(false);
            editor.settle(taken);
          }}
        />
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
      {others.length > 0 && conflicts.length === 0 && (
        <Notice tone="slate">
          {many(others.length, 'other window has', 'other windows have')} this map open
          {busy > 0 ? `, ${busy === others.length ? 'with' : `${busy} with`} unsaved changes` : ''}. What is saved there comes in here; what
          both change, you are asked about.
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
