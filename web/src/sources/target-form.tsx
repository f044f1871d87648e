import { Box, Button, FormControlLabel, MenuItem, Radio, RadioGroup, TextField } from '@mui/material';
import { lazy, Suspense, useState } from 'react';
import { DEFAULT_NAMING, proposeName } from '@rootmap/core';
import type { IntakeView, PathRequest, ProjectView, SourcesView } from '@rootmap/core/contract';
import { usePlaces } from '../api/queries.js';
import { inRoot } from '../folders/moves.js';
import { PathText } from '../parts/path-text.js';

const FolderChooser = lazy(() => import('../parts/folder-chooser.js').then((m) => ({ default: m.FolderChooser })));

/** Own data may be thrown away and fetched again; shared data stands once, outside all projects, and is linked. */
export interface Target {
  readonly kind: 'own' | 'shared';
  /** From the root, for own data. */
  readonly folder: string;
  /** A linked folder, or another one, for shared data. */
  readonly shared: PathRequest | null;
  /** Made for this arrival, below a folder of its publisher; '' puts everything into the folder itself. */
  readonly ownFolder: string;
}

const joined = (...parts: readonly string[]): string => parts.filter((p) => p !== '').join('/');

export const firstTarget = (_project: ProjectView, sources: SourcesView | undefined, arrival: IntakeView): Target => ({
  kind: 'own',
  folder: sources?.originals[0] ?? '',
  shared: null,
  ownFolder: arrival.isLoose ? '' : proposeName(arrival.name.replace(/\.(zip|kmz|tar|tar\.gz|tgz)$/i, ''), DEFAULT_NAMING),
});

/** Where everything would stand; null: it is not chosen yet. */
export function targetFolder(
  project: ProjectView,
  _sources: SourcesView | undefined,
  target: Target,
  publisher: string,
): PathRequest | null {
  const below = joined(publisher.trim() === '' ? '' : proposeName(publisher.trim().toLowerCase(), DEFAULT_NAMING), target.ownFolder.trim());
  if (target.kind === 'own') return inRoot(project, joined(target.folder, below));
  return target.shared && { place: target.shared.place, path: joined(target.shared.path, below) };
}

interface Props {
  readonly project: ProjectView;
  readonly sources: SourcesView | undefined;
  readonly value: Target;
  readonly into: PathRequest | null;
  readonly onChange: (target: Target) => void;
}

export function TargetForm({ project, sources, value, into, onChange }: Props) {
  const [choosing, setChoosing] = useState(false);
  const places = usePlaces().data ?? [];
  const links = project.links.flatMap((l) => {
    const place = places.find((p) => p.name === l.place);
    return l.present && l.path && place
      ? [{ name: l.name, at: { place: place.name, path: l.path.slice(place.folder.length).replace(/^\//, '') } }]
      : [];
  });
  const set = (change: Partial<Target>): void => onChange({ ...value, ...change });
  return (
    <Box sx={{ display: 'grid', gap: 1 }}>
      <RadioGroup
        value={value.kind}
        onChange={(_, kind) => set({ kind: kind as Target['kind'], shared: value.shared ?? links[0]?.at ?? null })}
        aria-label="For whom it is"
      >
        <FormControlLabel value="own" control={<Radio size="small" />} label="For this project: it may be thrown away and fetched again" />
        <FormControlLabel value="shared" control={<Radio size="small" />} label="For many projects: it stands once in a shared folder" />
      </RadioGroup>
      {value.kind === 'own' ? (
        <TextField
          select
          label="Folder"
          value={value.folder}
          onChange={(e) => set({ folder: e.target.value })}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        >
          {[...new Set([...(sources?.originals ?? []), value.folder, ''])].map((f) => (
            <MenuItem key={f} value={f} className="mono">
              {f || 'the root itself'}
            </MenuItem>
          ))}
        </TextField>
      ) : (
        <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1 }}>
          {links.map((l) => (
            <Button key={l.name} variant={same(l.at, value.shared) ? 'contained' : 'outlined'} onClick={() => set({ shared: l.at })}>
              {l.name}
            </Button>
          ))}
          <Button onClick={() => setChoosing(true)}>Another folder…</Button>
        </Box>
      )}
      <TextField
        label="Folder made for it"
        value={value.ownFolder}
        onChange={(e) => set({ ownFolder: e.target.value })}
        helperText="Left empty, everything goes beside what is there; nothing is written over."
        slotProps={{ htmlInput: { className: 'mono' } }}
      />
      <Box>
        {into ? (
          <PathText path={`${into.place}/${into.path}`} most={60} />
        ) : (
          <span style={{ color: 'var(--plum)' }}>Choose the shared folder.</span>
        )}
      </Box>
      <Suspense>
        {choosing && (
          <FolderChooser
            open
            title="Which shared folder?"
            useFolderLabel="Use this folder"
            onClose={() => setChoosing(false)}
            onChoose={(at) => {
              setChoosing(false);
              set({ shared: at });
            }}
          />
        )}
      </Suspense>
    </Box>
  );
}

const same = (a: PathRequest, b: PathRequest | null): boolean => b !== null && a.place === b.place && a.path === b.path;
