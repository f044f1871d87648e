import { mdiDotsVertical } from '@mdi/js';
import { Box, Divider, IconButton, Menu, MenuItem, Typography } from '@mui/material';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { GeodatabaseView, ProjectView, TableView } from '@rootmap/core/contract';
import { bytes, kindWord, many, number } from '../parts/format.js';
import { Icon } from '../parts/icon.js';
import { tableRoom } from '../parts/side-by-side.js';
import type { TableAct } from './table-act-dialog.js';

const GRID = 'minmax(0, 3fr) 64px 72px 90px minmax(0, 4fr) 60px 80px 132px 64px 44px';

interface Props {
  readonly project: ProjectView;
  readonly container: GeodatabaseView;
  readonly onAct: (act: TableAct) => void;
}

/** The tables of one container: what each is, and what can be done with it. */
export function TableList({ project, container, onAct }: Props) {
  const isOwn = container.link === null && project.id !== null;
  if (container.tables.length === 0)
    return <Typography sx={{ my: 1 }}>It is empty. Bring data in, and each dataset becomes a table.</Typography>;
  const heads = ['Table', 'Kind', 'Records', 'CRS', 'Extent', 'Index', 'Size', 'Last change', 'Used by', ''];
  return (
    <Box sx={tableRoom(940)}>
      <Box role="table" aria-label={`Tables of ${container.shownPath}`} sx={{ my: 1, fontSize: 13 }}>
        <Box
          role="row"
          sx={{
            display: 'grid',
            gridTemplateColumns: GRID,
            gap: 2,
            fontSize: 12,
            fontWeight: 650,
            color: 'var(--soft)',
            borderBottom: '1px solid var(--rule)',
          }}
        >
          {heads.map((h, i) => (
            <Box
              key={h}
              role="columnheader"
              aria-label={h || 'What to do with it'}
              sx={{ textAlign: i === 2 || i === 6 || i === 8 ? 'right' : 'left' }}
            >
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
              gap: 2,
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
            <Box role="cell" sx={{ textAlign: 'right' }} title={t.bytes === null ? undefined : `${number(t.bytes)} bytes`}>
              {t.bytes === null ? '' : bytes(t.bytes)}
            </Box>
            <Box role="cell">{t.lastChange?.slice(0, 16).replace('T', ' ') ?? ''}</Box>
            <Box role="cell" sx={{ textAlign: 'right' }}>
              {t.usedBy === 0 ? '' : many(t.usedBy, 'layer')}
            </Box>
            <Box role="cell">
              <TableMenu table={t} isOwn={isOwn} onAct={onAct} />
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

interface MenuProps {
  readonly table: TableView;
  readonly isOwn: boolean;
  readonly onAct: (act: TableAct) => void;
}

function TableMenu({ table, isOwn, onAct }: MenuProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const navigate = useNavigate();
  const act = (what: () => void) => (): void => {
    setAnchor(null);
    what();
  };
  const hasRows = table.kind === 'vector' || table.kind === 'table';
  return (
    <>
      <IconButton
        size="small"
        aria-label={`What to do with ${table.name}`}
        aria-haspopup="menu"
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        <Icon path={mdiDotsVertical} />
      </IconButton>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        <MenuItem onClick={act(() => void navigate(`../sources?dataset=${encodeURIComponent(table.id)}`, { relative: 'path' }))}>
          Look at it on a map
        </MenuItem>
        {hasRows && <MenuItem onClick={act(() => onAct({ action: 'rows', table }))}>See its rows</MenuItem>}
        {(hasRows || table.kind === 'raster') && <MenuItem onClick={act(() => onAct({ action: 'export', table }))}>Export it</MenuItem>}
        {isOwn && <Divider />}
        {isOwn && <MenuItem onClick={act(() => onAct({ action: 'rename', table }))}>Rename</MenuItem>}
        {isOwn && <MenuItem onClick={act(() => onAct({ action: 'copy', table }))}>Copy or move</MenuItem>}
        {isOwn && <MenuItem onClick={act(() => onAct({ action: 'drop', table }))}>Delete</MenuItem>}
      </Menu>
    </>
  );
}
