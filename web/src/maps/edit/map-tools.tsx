import { mdiBookmarkOutline, mdiFitToPageOutline, mdiSelectSearch } from '@mdi/js';
import { Box, IconButton, Tooltip } from '@mui/material';
import { useState } from 'react';
import { Icon } from '../../parts/icon.js';
import { NamedViews } from './named-views.js';
import type { MapWork } from './use-map-work.js';

/** Where the map can go in one press: to all of it, to what is chosen, to a view that has a name. */
export function MapTools({ work }: { work: MapWork }) {
  const { chosen, scene, zoomToAll } = work;
  const [views, setViews] = useState<HTMLElement | null>(null);
  const { box } = chosen;
  return (
    <Box role="toolbar" aria-label="Go on the map" sx={STRIP}>
      <Tool label="Zoom to all layers" icon={mdiFitToPageOutline} onClick={zoomToAll} />
      <Tool label="Zoom to what is chosen" icon={mdiSelectSearch} disabled={!box} onClick={() => box && scene.current?.fit(box)} />
      <Tool label="Named views" icon={mdiBookmarkOutline} onClick={(e) => setViews(e.currentTarget)} hasMenu />
      {views && <NamedViews work={work} anchor={views} onClose={() => setViews(null)} />}
    </Box>
  );
}

interface ToolProps {
  readonly label: string;
  readonly icon: string;
  readonly disabled?: boolean;
  readonly hasMenu?: boolean;
  readonly onClick: (e: React.MouseEvent<HTMLElement>) => void;
}

const Tool = ({ label, icon, disabled = false, hasMenu = false, onClick }: ToolProps) => (
  <Tooltip title={label} placement="left">
    <span>
      <IconButton size="small" aria-label={label} disabled={disabled} onClick={onClick} {...(hasMenu ? { 'aria-haspopup': 'dialog' } : {})}>
        <Icon path={icon} sx={{ fontSize: 17 }} />
      </IconButton>
    </span>
  </Tooltip>
);

const STRIP = {
  position: 'absolute',
  right: 12,
  top: 72,
  zIndex: 1,
  display: 'flex',
  flexDirection: 'column',
  gap: '2px',
  '& .MuiIconButton-root': {
    width: 28,
    height: 28,
    borderRadius: '3px',
    bgcolor: 'var(--sheet)',
    border: '1px solid var(--rule)',
    color: 'var(--ink)',
    '&:hover': { bgcolor: 'var(--sunk)' },
    '&.Mui-disabled': { color: 'var(--rule)', bgcolor: 'var(--sheet)' },
  },
} as const;
