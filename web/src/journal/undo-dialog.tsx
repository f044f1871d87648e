import { Box, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useSyncExternalStore, type ReactNode } from 'react';
import type { UndoPreview } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { FormDialog } from '../parts/form-dialog.js';
import { dateTime, many, number } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState } from '../parts/states.js';
import { askedUndo, type AskedUndo } from './undo-flow.js';

/** What an undo would do, wherever it was asked for. */
export function UndoDialogHost() {
  const asked = useSyncExternalStore(askedUndo.subscribe, askedUndo.get);
  return asked && <UndoDialog key={asked.id} asked={asked} />;
}

const MOST_SHOWN = 40;

function UndoDialog({ asked: { id, preview, onEnd } }: { asked: AskedUndo }) {
  const { title, isRedo, along, back, backCount, kept, keptCount, lost } = preview;
  const undo = useMutation({
    mutationFn: () => api.undo(id, { along: along.length > 0, shown: preview.digest }),
    onSuccess: onEnd,
  });
  const verb = isRedo ? 'Do again' : 'Undo';
  return (
    <FormDialog
      title={title}
      confirm={along.length > 0 ? `${verb}: ${many(along.length + 1, 'change')}` : verb}
      disabled={undo.isPending || backCount === 0}
      isBusy={undo.isPending}
      maxWidth="sm"
      onConfirm={() => undo.mutate()}
      onClose={() => onEnd(null)}
    >
      {undo.isError && <ErrorState error={undo.error} />}
      {backCount === 0 && (
        <Typography variant="body2">{isRedo ? 'Nothing of it can be done again now.' : 'Nothing of it can be put back now.'}</Typography>
      )}
      {along.length > 0 && (
        <Part
          title={`${many(along.length, 'later change stands', 'later changes stand')} on it, and ${along.length === 1 ? 'goes' : 'go'} along`}
        >
          {along.slice(0, MOST_SHOWN).map((c) => (
            <Line key={c.id} note={dateTime(c.createdMs)}>
              {c.title}
            </Line>
          ))}
          <More of={along.length} />
        </Part>
      )}
      {lost !== null && lost.length > 0 && (
        <Part title={`${many(lost.length, 'layer that is sound now', 'layers that are sound now')} will not be`} tone="var(--plum)">
          {lost.slice(0, MOST_SHOWN).map((l, i) => (
            <Line key={i} note={l.project === null ? l.map : `${l.map}, ${l.project}`}>
              {l.layer || 'untitled layer'}
            </Line>
          ))}
          <More of={lost.length} />
        </Part>
      )}
      {keptCount > 0 && (
        <Part title={many(keptCount, 'stays as it is', 'stay as they are')} tone="var(--ochre-text, inherit)">
          {kept.slice(0, MOST_SHOWN).map((k) => (
            <Line key={k.path} note={k.why}>
              <PathText path={k.path} most={58} />
            </Line>
          ))}
          <More of={keptCount} />
        </Part>
      )}
      {backCount > 0 && (
        <Part title={`${many(backCount, 'file or folder', 'files and folders')} ${isRedo ? 'as after it' : 'put back'}`}>
          {back.slice(0, MOST_SHOWN).map((b, i) => (
            <Line key={i} note={(isRedo ? AGAIN : BACK)[b.what]}>
              <PathText path={b.path} most={58} />
            </Line>
          ))}
          <More of={backCount} />
        </Part>
      )}
      <Typography variant="body2" color="text.secondary">
        {lost === null && 'Which layers would lose their data was not looked at: no project is there. '}
        This is a change of its own in the journal, and can be taken back in its turn.
      </Typography>
    </FormDialog>
  );
}

type Words = Readonly<Record<UndoPreview['back'][number]['what'], string>>;
const BACK: Words = {
  restored: 'gets its old content',
  removed: 'into the trash',
  returned: 'out of the trash',
  moved: 'moves back',
  bits: 'gets its old permissions',
  folder: 'is made again',
  'folder-removed': 'empty folder, goes',
};
const AGAIN: Words = { ...BACK, restored: 'gets its later content', moved: 'moves again', bits: 'gets its later permissions' };

function Part({ title, tone, children }: { title: string; tone?: string; children: ReactNode }) {
  return (
    <Box component="section" sx={{ mb: 1.75 }}>
      <Typography variant="h3" sx={{ fontSize: 14, fontWeight: 650, mb: 0.5, ...(tone ? { color: tone } : {}) }}>
        {title}
      </Typography>
      <Box sx={{ maxHeight: 168, overflow: 'auto', borderTop: '1px solid var(--rule)' }} tabIndex={0} role="group" aria-label={title}>
        {children}
      </Box>
    </Box>
  );
}

const Line = ({ children, note }: { children: ReactNode; note: string }) => (
  <Box sx={{ display: 'flex', gap: 1.5, justifyContent: 'space-between', py: 0.25, fontSize: 13, borderBottom: '1px solid var(--rule)' }}>
    <Box component="span" sx={{ minWidth: 0 }}>
      {children}
    </Box>
    <Box component="span" sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
      {note}
    </Box>
  </Box>
);

const More = ({ of }: { of: number }) =>
  of > MOST_SHOWN && <Box sx={{ fontSize: 13, color: 'text.secondary', py: 0.5 }}>and {number(of - MOST_SHOWN)} more</Box>;
