import { Box, Button, Menu, MenuItem, Stack, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import { Link } from 'react-router';
import { isRole, ROLES, type Role } from '@rootmap/core';
import type { FoldersView, ProjectView } from '@rootmap/core/contract';
import { useOpenProject } from '../frame/use-project.js';
import { bytes, dateTime, many, number } from '../parts/format.js';
import { CopyPath } from '../parts/copy-path.js';
import { Fact } from '../parts/fact.js';
import { PathText } from '../parts/path-text.js';
import { Sheet } from '../parts/states.js';
import { OpenThing } from './open-thing.js';
import { LinkedDetails } from './linked-details.js';
import type { FolderRow, Row, ThingRow } from './folder-rows.js';
import { inRoot } from './moves.js';
import { KIND_WORDS, ROLE_WORDS } from './words.js';

export interface DetailActions {
  readonly rename: (path: string) => void;
  readonly remove: (paths: readonly string[]) => void;
  readonly cut: () => void;
  readonly paste: (folder: string) => void;
  readonly setRole: (path: string, role: Role | null) => void;
  readonly addFolder: (within: string) => void;
  readonly workingCopy: (path: string) => void;
  readonly moveTo: (paths: readonly string[], folder: string) => void;
  readonly moveElsewhere: (paths: readonly string[]) => void;
}

interface Props {
  readonly view: FoldersView;
  readonly rows: readonly Row[];
  readonly cutCount: number;
  readonly actions: DetailActions;
}

/** What is selected, and what can be done with it. */
export function DetailsPanel({ view, rows, cutCount, actions }: Props) {
  const [row] = rows;
  return (
    <Sheet sx={{ overflow: 'auto', p: 2, display: 'flex', flexDirection: 'column', gap: 1.5 }}>
      {!row ? (
        <Typography color="text.secondary">
          Choose a row to see what it is and what uses it. Drag rows to move them; every reference follows. By keys: Ctrl X cuts, Ctrl V
          pastes, F2 renames, Delete deletes.
        </Typography>
      ) : row.link !== null ? (
        <LinkedDetails row={row} link={row.link} />
      ) : rows.length > 1 ? (
        <Several rows={rows.filter((r) => r.link === null)} actions={actions} view={view} />
      ) : row.kind === 'folder' ? (
        <FolderDetails row={row} view={view} cutCount={cutCount} actions={actions} />
      ) : (
        <ThingDetails row={row} view={view} actions={actions} />
      )}
    </Sheet>
  );
}

function Several({ rows, actions, view }: { rows: readonly Row[]; actions: DetailActions; view: FoldersView }) {
  return (
    <>
      <Typography variant="h2">{rows.length} selected</Typography>
      <Typography variant="body2">{bytes(rows.reduce((sum, r) => sum + r.bytes, 0))}</Typography>
      <Stack direction="row" spacing={1} sx={{ flexWrap: 'wrap' }} useFlexGap>
        <Button variant="outlined" disabled={view.readOnly} onClick={actions.cut}>
          Cut
        </Button>
        <MoveMenu paths={rows.map((r) => r.path)} view={view} actions={actions} />
        <Button color="error" disabled={view.readOnly} onClick={() => actions.remove(rows.map((r) => r.path))}>
          Delete {rows.length}
        </Button>
      </Stack>
    </>
  );
}

function FolderDetails({ row, view, cutCount, actions }: { row: FolderRow; view: FoldersView; cutCount: number; actions: DetailActions }) {
  const isRoot = row.path === '';
  return (
    <>
      <Typography variant="h2">{row.name}</Typography>
      {!isRoot && <PathText path={row.path} most={40} />}
      <Fact name="Holds">
        {many(row.files, 'file')}, {bytes(row.bytes)}
      </Fact>
      {row.isNested && <Typography variant="body2">A project of its own: open it to see and move what is in it.</Typography>}
      {!isRoot && !row.isNested && view.isProject && (
        <TextField
          select
          label="Role"
          value={row.isPlanned ? (row.role ?? '') : ''}
          disabled={view.readOnly}
          onChange={(e) => actions.setRole(row.path, e.target.value === '' ? null : (e.target.value as Role))}
          helperText={roleHelp(row)}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        >
          <MenuItem value="">{row.role && !row.isPlanned ? `${ROLE_WORDS[row.role]}, from the folder above` : 'no role'}</MenuItem>
          {ROLES.map((r) => (
            <MenuItem key={r} value={r}>
              {ROLE_WORDS[r]}
            </MenuItem>
          ))}
        </TextField>
      )}
      <Findings row={row} />
      <Stack direction="row" spacing={1} sx={{ flexWrap: 'wrap' }} useFlexGap>
        {cutCount > 0 && (
          <Button variant="contained" onClick={() => actions.paste(row.path)}>
            Move {cutCount} here
          </Button>
        )}
        <Button variant="outlined" disabled={view.readOnly || row.isNested} onClick={() => actions.addFolder(row.path)}>
          Make a folder
        </Button>
        {!isRoot && <Common row={row} view={view} actions={actions} />}
      </Stack>
    </>
  );
}

function roleHelp(row: FolderRow): string {
  if (row.role === 'originals') return 'Protected: nothing is written here but what is brought in. Files are read-only.';
  return 'What the folder is for. Originals are protected.';
}

function ThingDetails({ row, view, actions }: { row: ThingRow; view: FoldersView; actions: DetailActions }) {
  const project = useOpenProject();
  const { thing } = row;
  const at = inRoot(project, row.path);
  return (
    <>
      <Typography variant="h2" className="mono" sx={{ overflowWrap: 'anywhere' }}>
        {row.name}
      </Typography>
      <Fact name="Is">
        {KIND_WORDS[thing.kind]}
        {thing.kind === 'dataset' ? `, ${thing.format}` : ''}
        {row.role === 'originals' ? ', an original' : ''}
      </Fact>
      <Fact name="Size">
        <span title={`${number(row.bytes)} bytes`}>{bytes(row.bytes)}</span>, changed {dateTime(thing.modifiedMs)}
      </Fact>
      {thing.files.length > 1 && (
        <Fact name={many(thing.files.length, 'file')}>
          <Box component="details">
            <summary>{thing.kind === 'container' ? 'moved and packed whole' : 'they move together'}</summary>
            <Box className="mono" sx={{ fontSize: 12, maxHeight: 140, overflow: 'auto' }}>
              {thing.files.slice(0, 200).map((f) => (
                <div key={f}>{f}</div>
              ))}
            </Box>
          </Box>
        </Fact>
      )}
      {thing.kind === 'dataset' && <UsedBy row={row} />}
      <Findings row={row} />
      <Stack direction="row" spacing={1} sx={{ flexWrap: 'wrap' }} useFlexGap>
        {row.role === 'originals' && thing.kind === 'dataset' && (
          <Button variant="contained" disabled={view.readOnly} onClick={() => actions.workingCopy(row.path)}>
            Make a working copy
          </Button>
        )}
        <OpenThing projectKey={project.key} thing={thing} name={row.name} at={at} />
        <Common row={row} view={view} actions={actions} />
        {row.role !== 'originals' && thing.kind !== 'left-behind' && (
          <Button disabled={view.readOnly} onClick={() => actions.workingCopy(row.path)}>
            Duplicate
          </Button>
        )}
      </Stack>
    </>
  );
}

/** The layers that draw on a dataset, in this project and in others. */
function UsedBy({ row: { path, thing } }: { row: ThingRow }) {
  const layers = layersOf(useOpenProject(), path);
  return (
    <Fact name="Used by">
      {thing.usedBy === 0
        ? 'no layer of any project here'
        : layers.map((l) => (
            <div key={l.key}>
              <Link to={`../maps?map=${encodeURIComponent(l.map)}&layer=${encodeURIComponent(l.layer)}`} relative="path">
                {l.title}
              </Link>
              <Box component="span" sx={{ color: 'var(--soft)' }}>
                {' '}
                in {l.mapTitle}
              </Box>
            </div>
          ))}
      {thing.usedBy > layers.length && (
        <div>
          {layers.length > 0 ? 'and ' : ''}
          {many(thing.usedBy - layers.length, 'layer')} of other projects
        </div>
      )}
    </Fact>
  );
}

function Common({ row, view, actions }: { row: Row; view: FoldersView; actions: DetailActions }) {
  const project = useOpenProject();
  const { shownRoot } = project;
  return (
    <>
      <CopyPath shown={`${shownRoot.replace(/\/$/, '')}/${row.path}`} relative={row.path} at={inRoot(project, row.path)} />
      <Button variant="outlined" disabled={view.readOnly} onClick={() => actions.rename(row.path)}>
        Rename
      </Button>
      <Button variant="outlined" disabled={view.readOnly} onClick={actions.cut}>
        Cut
      </Button>
      <MoveMenu paths={[row.path]} view={view} actions={actions} />
      <Button color="error" disabled={view.readOnly} onClick={() => actions.remove([row.path])}>
        Delete
      </Button>
      {view.readOnly && <Typography variant="body2">This place is read-only: nothing can be moved, renamed or deleted in it.</Typography>}
    </>
  );
}

/** The folders that have a role, as targets, and everything else by choosing. */
function MoveMenu({ paths, view, actions }: { paths: readonly string[]; view: FoldersView; actions: DetailActions }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const close = (): void => setAnchor(null);
  const targets = Object.entries(view.roles).flatMap(([path, role]) => (isRole(role) ? [{ path, role }] : []));
  return (
    <>
      <Button variant="outlined" disabled={view.readOnly} aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)}>
        Move to…
      </Button>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={close}>
        {targets.map((t) => (
          <MenuItem
            key={t.path}
            dense
            onClick={() => {
              close();
              actions.moveTo(paths, t.path);
            }}
          >
            <span className="mono">{t.path}</span>
            <Box component="span" sx={{ color: 'var(--soft)', ml: 1 }}>
              {ROLE_WORDS[t.role]}
            </Box>
          </MenuItem>
        ))}
        <MenuItem
          dense
          onClick={() => {
            close();
            actions.moveElsewhere(paths);
          }}
        >
          Another folder or place…
        </MenuItem>
      </Menu>
    </>
  );
}

function Findings({ row }: { row: Row }) {
  if (row.findings.length === 0) return null;
  const proposed = row.findings.find((f) => f.proposed !== null)?.proposed;
  return (
    <Box sx={{ borderLeft: '3px solid var(--ochre)', bgcolor: 'var(--ochre-wash)', px: 1.25, py: 0.75, borderRadius: '3px', fontSize: 13 }}>
      The name: {row.findings.map((f) => f.message).join('; ')}.
      {proposed && (
        <div>
          Proposed: <span className="mono">{proposed}</span>. The Names view changes all at once.
        </div>
      )}
    </Box>
  );
}

function layersOf(project: ProjectView, path: string) {
  const full = `${project.root}/${path}`;
  return project.maps.flatMap((m) =>
    m.layers
      .filter((l) => l.dataset === full || l.dataset?.startsWith(`${full}#`) || l.resolved === full)
      .map((l) => ({ key: l.key, title: l.title, layer: l.layer, map: m.relativePath, mapTitle: m.title })),
  );
}
