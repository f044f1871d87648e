import { Alert, Box } from '@mui/material';
import { Outlet } from 'react-router';
import { useServerEvents } from '../api/events.js';
import { useStatus } from '../api/queries.js';
import { UndoDialogHost } from '../journal/undo-dialog.js';
import { WayStrip } from '../ways/way-strip.js';
import { TopLine } from './top-line.js';

/** What surrounds every page: the top line, and what the server had to say at its start. */
export function Frame() {
  useServerEvents();
  const status = useStatus();
  return (
    <Box sx={{ height: '100%', display: 'flex', flexDirection: 'column' }}>
      <Box
        component="a"
        href="#page"
        sx={{
          position: 'absolute',
          left: -9999,
          '&:focus': { left: 8, top: 8, zIndex: 2000, bgcolor: 'var(--sheet)', p: 1, color: 'var(--ink)' },
        }}
      >
        Skip to the page
      </Box>
      <TopLine />
      <WayStrip />
      {status.data?.notices.map((notice) => (
        <Alert key={notice} severity="warning" variant="outlined" sx={{ m: 1, mb: 0 }}>
          {notice}
        </Alert>
      ))}
      <Box
        id="page"
        component="main"
        tabIndex={-1}
        sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column', outline: 'none' }}
      >
        <Outlet />
      </Box>
      <UndoDialogHost />
    </Box>
  );
}
