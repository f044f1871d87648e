import { Box, Button, TextField, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { EditRequest, LinkAdvice, PathRequest, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { EditDialog } from '../folders/edit-dialog.js';
import { useSettled } from '../folders/use-edit.js';
import { bytes, many } from '../parts/format.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { keys } from '../api/queries.js';

interface Props {
  readonly project: ProjectView;
  readonly at: PathRequest;
  /** Links another folder instead, which was advised. */
  readonly onAnother: (at: PathRequest) => void;
  readonly onLinked: (name: string) => void;
  readonly onClose: () => void;
}

/** Links a folder, after telling what it costs and whether another one would serve better. */
export function LinkDialog({ project, at, onAnother, onLinked, onClose }: Props) {
  const advice = useQuery({
    queryKey: keys.of(project.key, 'link-advice', at),
    queryFn: () => api.linkAdvice(project.key, at),
    gcTime: 0,
  });
  const [own, setOwn] = useState<string | null>(null);
  const name = own ?? advice.data?.proposedName ?? '';
  const settled = useSettled(name.trim());
  const isInside = advice.data?.inside != null;
  const replaces = project.links
    .filter((l) => advice.data?.parent && same(advice.data.parent.at, at) && advice.data.parent.replaces.includes(l.name))
    .map((l) => l.name);
  const edit: EditRequest | null =
    advice.data && !isInside && settled !== '' ? { kind: 'link', name: settled, folder: at, note: '', replaces } : null;
  return (
    <EditDialog
      projectKey={project.key}
      title={`Link ${[at.place, at.path].filter(Boolean).join('/')}`}
      edit={edit}
      button={`Link it as ${name}`}
      isSettling={settled !== name.trim()}
      onClose={onClose}
      onDone={() => onLinked(settled)}
    >
      {advice.isError ? (
        <ErrorState error={advice.error} />
      ) : advice.data ? (
        <Box sx={{ display: 'grid', gap: 1.5, mb: 1.5 }}>
          <Advice advice={advice.data} at={at} onAnother={onAnother} replaces={replaces} />
          {!isInside && (
            <TextField
              label="Name of the link"
              value={name}
              onChange={(e) => setOwn(e.target.value)}
              slotProps={{ htmlInput: { className: 'mono' } }}
              sx={{ mt: 0.5 }}
            />
          )}
        </Box>
      ) : (
        <Waiting what="Counting what is in it…" />
      )}
    </EditDialog>
  );
}

const same = (a: PathRequest, b: PathRequest): boolean => a.place === b.place && a.path === b.path;

function Advice({
  advice,
  at,
  onAnother,
  replaces,
}: {
  advice: LinkAdvice;
  at: PathRequest;
  onAnother: (at: PathRequest) => void;
  replaces: readonly string[];
}) {
  if (advice.inside !== null) return <Typography>It is inside the link {advice.inside} already: everything in it is there.</Typography>;
  const cost = `${advice.isPartial ? 'More than ' : ''}${many(advice.files, 'file')} in ${many(advice.folders + 1, 'folder')}, ${bytes(advice.bytes)} of data`;
  return (
    <>
      <Typography>
        {cost}. {advice.isPartial ? 'Looking through all of it takes longer than a moment, each time.' : ''}
      </Typography>
      {replaces.length > 0 && <Typography>It takes the place of {replaces.join(' and ')}.</Typography>}
      {advice.parent && !same(advice.parent.at, at) && (
        <Typography component="div" sx={{ bgcolor: 'var(--ochre-wash)', p: 1.25, borderRadius: 1 }}>
          You linked {advice.parent.replaces.join(' and ')} beside it before, and will need the next one, too.{' '}
          <Button size="small" onClick={() => onAnother(advice.parent!.at)}>
            Link the folder above instead: {[advice.parent.at.place, advice.parent.at.path].join('/')}
          </Button>
        </Typography>
      )}
      {advice.isWholePlace && (
        <Typography component="div" sx={{ bgcolor: 'var(--ochre-wash)', p: 1.25, borderRadius: 1 }}>
          This is a whole place. A part of it is quicker to look through and easier to understand:
          {advice.better.map((b) => (
            <Button key={b.at.path} size="small" onClick={() => onAnother(b.at)}>
              {b.at.path} ({many(b.files, 'file')})
            </Button>
          ))}
        </Typography>
      )}
    </>
  );
}
