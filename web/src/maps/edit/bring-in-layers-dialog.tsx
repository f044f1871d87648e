import { Box, Button, Checkbox, TextField, Typography } from '@mui/material';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { DatasetView, PathRequest, ProjectView } from '@rootmap/core/contract';
import { FolderChooser } from '../../parts/folder-chooser.js';
import { kindWord, many, number } from '../../parts/format.js';
import { VirtualTable } from '../../parts/virtual-table.js';
import { Thumbnail, THUMBNAILS } from '../../pictures/thumbnail.js';
import { formatOf } from '@rootmap/core';
import { FormDialog } from '../../parts/form-dialog.js';

interface Props {
  readonly project: ProjectView;
  /** Of the map, from the root. */
  readonly map: string;
  /** Ids of what the map has already. */
  readonly present: ReadonlySet<string>;
  readonly onAdd: (ids: readonly string[]) => void;
  /** A file that stands outside the project and its links. */
  readonly onOutside: (at: PathRequest) => void;
  readonly onClose: () => void;
}

/** Datasets of the project and its links, to be layers of the map; or something from elsewhere. */
export function BringInLayersDialog({ project, map, present, onAdd, onOutside, onClose }: Props) {
  const [words, setWords] = useState('');
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const [isElsewhere, setElsewhere] = useState(false);
  const found = useMemo(() => {
    const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
    return project.datasets.filter((d) => {
      if ((d.kind !== 'vector' && d.kind !== 'raster') || d.state === 'unreadable') return false;
      const hay =
        `${d.name} ${d.folder} ${d.link ?? ''} ${d.format} ${d.crs ?? ''} ${kindWord(d.kind === 'raster' ? 'raster' : d.geometry)}`.toLowerCase();
      return wanted.every((w) => hay.includes(w));
    });
  }, [project.datasets, words]);
  const flip = (id: string): void => {
    const next = new Set(ticked);
    if (!next.delete(id)) next.add(id);
    setTicked(next);
  };
  return (
    <FormDialog
      title="Bring into the map"
      confirm={`Bring in ${many(ticked.size, 'layer')}`}
      disabled={ticked.size === 0}
      maxWidth="md"
      onConfirm={() => (onAdd([...ticked]), onClose())}
      onClose={onClose}
    >
      <Box sx={{ display: 'flex', gap: 1.5, mb: 1, alignItems: 'center' }}>
        <TextField
          autoFocus
          size="small"
          placeholder="Find by name, folder, kind, CRS…"
          value={words}
          onChange={(e) => setWords(e.target.value)}
          slotProps={{ htmlInput: { 'aria-label': 'Find datasets' } }}
          sx={{ flex: 1 }}
        />
        <Button variant="outlined" onClick={() => setElsewhere(true)}>
          From outside the project…
        </Button>
        <Button variant="outlined" component={Link} to={`/p/${project.key}/sources?view=services&into=${encodeURIComponent(map)}`}>
          From a service…
        </Button>
      </Box>
      <Box sx={{ height: 380, display: 'flex', flexDirection: 'column', ...THUMBNAILS }}>
        {found.length === 0 ? (
          <Typography color="text.secondary">No dataset has these words.</Typography>
        ) : (
          <VirtualTable
            label="Datasets"
            items={found}
            rowHeight={38}
            columns="34px 52px minmax(0,1.4fr) minmax(0,1fr) 70px 90px 96px"
            keyOf={(d) => d.id}
            cells={(d) => (
              <Cells d={d} projectKey={project.key} isTicked={ticked.has(d.id)} isPresent={present.has(d.id)} onFlip={() => flip(d.id)} />
            )}
          />
        )}
      </Box>

      {isElsewhere && (
        <FolderChooser
          open
          title="Data from outside the project"
          acceptsFile={(name) => !['document', 'opaque', null].includes(formatOf(name))}
          onChoose={(at) => (setElsewhere(false), onOutside(at))}
          onClose={() => setElsewhere(false)}
        />
      )}
    </FormDialog>
  );
}

const CUT = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

function Cells({
  d,
  projectKey,
  isTicked,
  isPresent,
  onFlip,
}: {
  d: DatasetView;
  projectKey: string;
  isTicked: boolean;
  isPresent: boolean;
  onFlip: () => void;
}) {
  return (
    <>
      <span role="cell">
        <Checkbox size="small" sx={{ p: 0.25 }} checked={isTicked} onChange={onFlip} slotProps={{ input: { 'aria-label': d.name } }} />
      </span>
      <span role="cell">
        <Thumbnail projectKey={projectKey} dataset={d} modifiedMs={0} />
      </span>
      <span role="cell" className="mono" style={CUT}>
        {d.name}
      </span>
      <span role="cell" style={{ ...CUT, color: 'var(--soft)' }}>
        {d.link ? `${d.link}: ` : ''}
        {d.folder}
      </span>
      <span role="cell">{kindWord(d.kind === 'raster' ? 'raster' : d.geometry)}</span>
      <span role="cell">{d.crs ?? 'no CRS'}</span>
      <span role="cell" style={{ color: 'var(--soft)' }}>
        {isPresent ? 'in the map' : d.count === null ? '' : number(d.count)}
      </span>
    </>
  );
}
