import { Box, Button, Stack, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { GeodatabaseView, ProjectView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { inRoot } from '../folders/moves.js';
import { bytes, kindWord, many, number } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Sheet, Tag } from '../parts/states.js';

/** What a stick that is formatted in the oldest common way holds in one file: 4 GiB less one byte. */
const FAT32_BYTES = 2 ** 32 - 1;

interface Props {
  readonly container: GeodatabaseView;
  readonly project: ProjectView;
  readonly isOpen: boolean;
  readonly onOpen: () => void;
  readonly onImport: () => void;
  readonly onWorkHere: () => void;
}

/** One container: its tables, its size, what it is held against. */
export function ContainerCard({ container: c, project, isOpen, onOpen, onImport, onWorkHere }: Props) {
  const [isChecking, setChecking] = useState(false);
  const name = c.shownPath.slice(c.shownPath.lastIndexOf('/') + 1);
  const isOwn = c.link === null && project.id !== null;
  return (
    <Sheet sx={{ p: 2 }}>
      <Box component="section" aria-label={name}>
        <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5 }}>
          <Typography variant="h2" className="mono">
            {name}
          </Typography>
          {c.isWorking && <Tag tone="spruce">worked in</Tag>}
          {c.link && <Tag tone="slate">{c.link}</Tag>}
          <PathText path={c.shownPath} most={50} colour="var(--soft)" />
          <Box sx={{ flex: 1 }} />
          <Typography variant="body2" color="text.secondary" title={`${number(c.bytes)} bytes`}>
            {many(c.tables.length, 'table')}, {bytes(c.bytes)}
            {c.freeBytes > 0 ? `, of which ${bytes(c.freeBytes)} are free space inside` : ''}
          </Typography>
        </Stack>
        {c.bytes > FAT32_BYTES && (
          <Typography variant="body2" sx={{ color: 'var(--plum)' }}>
            It is larger than 4 GiB: a stick formatted as FAT32 cannot hold it.
          </Typography>
        )}
        {c.problem !== null && <Typography sx={{ color: 'var(--plum)', my: 1 }}>{c.problem}</Typography>}
        {isOpen ? <Tables container={c} /> : c.tables.length > 0 && <Button onClick={onOpen}>Show its tables</Button>}
        <Stack direction="row" spacing={1} sx={{ mt: 1 }}>
          {isOwn && (
            <Button variant="contained" onClick={onImport} disabled={c.problem !== null}>
              Bring data in
            </Button>
          )}
          {isOwn && !c.isWorking && <Button onClick={onWorkHere}>Work in it</Button>}
          {c.link === null && <Button onClick={() => setChecking(true)}>Check it against the standard</Button>}
        </Stack>
        {isChecking && <Check project={project} path={c.shownPath} />}
      </Box>
    </Sheet>
  );
}

const GRID = 'minmax(0, 2fr) 90px 90px 110px minmax(0, 2fr) 90px 150px 60px';

function Tables({ container }: { container: GeodatabaseView }) {
  if (container.tables.length === 0)
    return <Typography sx={{ my: 1 }}>It is empty. Bring data in, and each dataset becomes a table.</Typography>;
  const heads = ['Table', 'Kind', 'Records', 'CRS', 'Extent', 'Index', 'Last change', ''];
  return (
    <Box role="table" aria-label={`Tables of ${container.shownPath}`} sx={{ my: 1, fontSize: 13 }}>
      <Box
        role="row"
        sx={{
          display: 'grid',
          gridTemplateColumns: GRID,
          gap: 1,
          fontSize: 12,
          fontWeight: 650,
          color: 'var(--soft)',
          borderBottom: '1px solid var(--rule)',
        }}
      >
        {heads.map((h, i) => (
          <Box key={h} role="columnheader" aria-label={h || 'Look at it'} sx={{ textAlign: i === 2 ? 'right' : 'left' }}>
            {h}
          </Box>
        ))}
      </Box>
      {container.tables.map((t) => (
        <Box
          role="row"
          key={t.name}
          sx={{
            display: 'grid',
            gridTemplateColumns: GRID,
            gap: 1,
            minHeight: 30,
            alignItems: 'center',
            '& > *': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
          }}
        >
          <Box role="cell" className="mono">
            {t.name}
          </Box>
          <Box role="cell">{kindWord(t.geometry) || t.kind}</Box>
          <Box role="cell" sx={{ textAlign: 'right' }}>
            {t.count === null ? '' : number(t.count)}
          </Box>
          <Box role="cell" className="mono">
            {t.crs ?? ''}
          </Box>
          <Box role="cell" className="mono">
            {t.bbox ? t.bbox.map((n) => Math.round(n * 100) / 100).join(' ') : ''}
          </Box>
          <Box role="cell">{t.kind === 'vector' ? (t.hasIndex ? 'by place' : 'none') : ''}</Box>
          <Box role="cell">{t.lastChange?.slice(0, 16).replace('T', ' ') ?? ''}</Box>
          <Box role="cell">
            <Link to={`../sources?dataset=${encodeURIComponent(t.id)}`} relative="path">
              Look
            </Link>
          </Box>
        </Box>
      ))}
    </Box>
  );
}

/** Findings with the number of the requirement of the standard (OGC 12-128r17) that each breaks. */
function Check({ project, path }: { project: ProjectView; path: string }) {
  const at = inRoot(project, path);
  const check = useQuery({
    queryKey: ['project', project.key, 'geodatabase-check', path],
    queryFn: () => api.checkGeodatabase(project.key, at),
  });
  if (check.isError) return <ErrorState error={check.error} />;
  if (!check.data) return <Typography role="status">Reading every shape…</Typography>;
  if (check.data.length === 0)
    return (
      <Typography role="status" sx={{ color: 'var(--spruce)', mt: 1 }}>
        It is as the standard asks.
      </Typography>
    );
  return (
    <Box component="ul" aria-label="Findings" sx={{ m: 0, mt: 1, p: 0, listStyle: 'none', fontSize: 13 }}>
      {check.data.map((f) => (
        <li key={`${f.requirement} ${f.table} ${f.message}`}>
          {f.table && <span className="mono">{f.table}: </span>}
          {f.message} <span style={{ color: 'var(--soft)' }}>{f.requirement === null ? '' : `(requirement ${f.requirement})`}</span>
        </li>
      ))}
    </Box>
  );
}
