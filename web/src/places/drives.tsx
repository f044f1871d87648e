import { Button, Table, TableBody, TableCell, TableHead, TableRow, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import type { DriveKind, DriveView, PlaceView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { PathText } from '../parts/path-text.js';
import { Sheet } from '../parts/states.js';

export const KINDS: Readonly<Record<DriveKind, string>> = {
  fixed: 'disk of this machine',
  removable: 'can be taken out',
  network: 'share of a server',
  optical: 'disc',
  memory: 'in memory, gone at the next start',
  unknown: 'the system does not tell',
};

/** The longest drive that a folder stands on; Windows does not tell letters in their case apart. */
export function driveOf(folder: string, drives: readonly DriveView[]): DriveView | null {
  const start = (d: DriveView): string => (d.folder.endsWith('/') ? d.folder : `${d.folder}/`);
  const isOn = (d: DriveView): boolean => `${folder}/`.toLowerCase().startsWith(start(d).toLowerCase());
  return [...drives].filter(isOn).sort((a, b) => b.folder.length - a.folder.length)[0] ?? null;
}

/** As the machine that the server runs on tells it; nothing where others reach that server. */
export const useDrives = () => useQuery({ queryKey: keys.drives, queryFn: api.drives, retry: false });

interface Props {
  readonly drives: readonly DriveView[];
  readonly places: readonly PlaceView[];
  /** Null: places cannot be added here. */
  readonly onPick: ((drive: DriveView) => void) | null;
}

/** What this machine has, as it tells it, and which places stand on it. */
export function Drives({ drives, places, onPick }: Props) {
  const offered = drives.filter((d) => !d.isSystem);
  const on = (drive: DriveView): string[] => places.filter((p) => p.present && driveOf(p.folder, drives) === drive).map((p) => p.name);
  return (
    <Sheet>
      <Table size="small" aria-label="Drives of this machine">
        <TableHead>
          <TableRow>
            <TableCell>Drive</TableCell>
            <TableCell>What it is</TableCell>
            <TableCell>Places on it</TableCell>
            <TableCell />
          </TableRow>
        </TableHead>
        <TableBody>
          {offered.map((drive) => (
            <TableRow key={drive.folder}>
              <TableCell>
                <PathText path={drive.shown} most={40} /> {drive.label}
              </TableCell>
              <TableCell>
                {KINDS[drive.kind]} {drive.share && <span className="mono">{drive.share}</span>}
              </TableCell>
              <TableCell>{on(drive).join(', ') || 'none'}</TableCell>
              <TableCell align="right">
                {onPick && (
                  <Button onClick={() => onPick(drive)} aria-label={`Make a place of ${drive.shown}`}>
                    Make a place of it
                  </Button>
                )}
              </TableCell>
            </TableRow>
          ))}
        </TableBody>
      </Table>
      {offered.length === 0 && <Typography sx={{ p: 2 }}>This system does not tell its drives.</Typography>}
    </Sheet>
  );
}
