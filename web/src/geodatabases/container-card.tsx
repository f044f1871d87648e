import { Box, Button, Stack, Typography } from '@mui/material';
import { useState } from 'react';
import type { GeodatabaseView, ProjectView } from '@rootmap/core/contract';
import { bytes, many, number } from '../parts/format.js';
import { PathMenu } from '../parts/path-menu.js';
import { PathText } from '../parts/path-text.js';
import { Sheet, Tag } from '../parts/states.js';
import { CheckResult } from './check-result.js';
import type { TableAct } from './table-act-dialog.js';
import { TableList } from './table-list.js';

/** What a stick that is formatted in the oldest common way holds in one file: 4 GiB less one byte. */
const FAT32_BYTES = 2 ** 32 - 1;

interface Props {
  readonly container: GeodatabaseView;
  readonly project: ProjectView;
  readonly isOpen: boolean;
  readonly onOpen: () => void;
  readonly onImport: () => void;
  /** Titles of the maps that work in it of their own mind. */
  readonly maps: readonly string[];
  readonly onWorkHere: () => void;
  readonly onAct: (act: TableAct) => void;
}

/** One container: its tables, its size, what it is held against. */
export function ContainerCard({ container: c, project, isOpen, onOpen, onImport, maps, onWorkHere, onAct }: Props) {
  const [isChecking, setChecking] = useState(false);
  const name = c.shownPath.slice(c.shownPath.lastIndexOf('/') + 1);
  const isOwn = c.link === null && project.id !== null;
  return (
    <Sheet sx={{ p: 2 }}>
      <Box component="section" aria-label={name}>
        <Stack direction="row" sx={{ alignItems: 'center', columnGap: 1.5, flexWrap: { xs: 'wrap', md: 'nowrap' } }}>
          <Typography variant="h2" className="mono">
            {name}
          </Typography>
          {c.isWorking && <Tag tone="spruce">working geodatabase</Tag>}
          {maps.map((title) => (
            <Tag key={title} tone="spruce">
              working geodatabase of {title}
            </Tag>
          ))}
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
        {isOpen ? (
          <TableList project={project} container={c} onAct={onAct} />
        ) : (
          c.tables.length > 0 && <Button onClick={onOpen}>Show its tables</Button>
        )}
        <Stack direction="row" spacing={1} useFlexGap sx={{ mt: 1, flexWrap: 'wrap' }}>
          {isOwn && (
            <Button variant="contained" onClick={onImport} disabled={c.problem !== null}>
              Bring data in
            </Button>
          )}
          {isOwn && (!c.isWorking || project.maps.length > 0) && <Button onClick={onWorkHere}>Work in it</Button>}
          {c.link === null && <Button onClick={() => setChecking(true)}>Check it against the standard</Button>}
          {isOwn && c.problem === null && c.freeBytes > 0 && (
            <Button onClick={() => onAct({ action: 'compact' })}>Give back free room</Button>
          )}
          {isOwn && c.problem !== null && <Button onClick={() => onAct({ action: 'rescue' })}>Rescue what can be read</Button>}
          <PathMenu project={project} path={c.path} />
        </Stack>
        {isChecking && (
          <CheckResult
            project={project}
            path={c.shownPath}
            onRepair={isOwn ? () => onAct({ action: 'repair' }) : null}
            onRescue={isOwn && c.problem === null ? () => onAct({ action: 'rescue' }) : null}
          />
        )}
      </Box>
    </Sheet>
  );
}
