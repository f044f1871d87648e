import {
  mdiAlertOutline,
  mdiArchiveOutline,
  mdiFileDocumentOutline,
  mdiFileOutline,
  mdiFolderOpenOutline,
  mdiFolderOutline,
  mdiFolderStarOutline,
  mdiGrid,
  mdiLockOutline,
  mdiMapOutline,
  mdiPackageVariantClosed,
  mdiShapeOutline,
  mdiTable,
} from '@mdi/js';
import { Box } from '@mui/material';
import type { Role } from '@rootmap/core';
import type { ThingView } from '@rootmap/core/contract';
import { Icon } from '../parts/icon.js';
import type { Row } from './folder-rows.js';
import { ROLE_WORDS } from './words.js';

const RASTER = new Set(['geotiff', 'image', 'ascii-grid', 'jp2', 'vrt', 'netcdf', 'hfa']);
const TABLE = new Set(['csv', 'dbf', 'xlsx']);

function pathOf(row: Row): string {
  if (row.kind === 'folder')
    return row.isNested ? mdiFolderStarOutline : row.isOpen && row.hasMore ? mdiFolderOpenOutline : mdiFolderOutline;
  return iconOf(row.thing);
}

function iconOf({ kind, format }: ThingView): string {
  switch (kind) {
    case 'dataset':
      return RASTER.has(format) ? mdiGrid : TABLE.has(format) ? mdiTable : mdiShapeOutline;
    case 'map':
      return mdiMapOutline;
    case 'container':
      return mdiPackageVariantClosed;
    case 'archive':
      return mdiArchiveOutline;
    case 'left-behind':
      return mdiAlertOutline;
    case 'document':
      return mdiFileDocumentOutline;
    case 'other':
      return mdiFileOutline;
  }
}

export const RowIcon = ({ row }: { row: Row }) => (
  <Icon
    path={pathOf(row)}
    sx={{ fontSize: 18, color: row.kind === 'folder' ? 'var(--spruce)' : 'var(--soft)', flex: 'none' }}
    aria-hidden
  />
);

/** A role: strong where the folder itself has it, soft where it comes from above. Originals have a lock. */
export function RoleMark({ role, isOwn }: { role: Role | null; isOwn: boolean }) {
  if (role === null) return null;
  return (
    <Box
      component="span"
      sx={{
        display: 'inline-flex',
        alignItems: 'center',
        gap: '3px',
        color: isOwn ? 'var(--ink)' : 'var(--soft)',
        fontWeight: isOwn ? 650 : 400,
      }}
    >
      {role === 'originals' && <Icon path={mdiLockOutline} sx={{ fontSize: 14 }} aria-hidden />}
      {ROLE_WORDS[role]}
    </Box>
  );
}
