import { Button, Popover } from '@mui/material';
import { lazy, Suspense, useState } from 'react';
import { useStatus } from '../api/queries.js';

const DevicesPanel = lazy(() => import('./devices-panel.js'));

/** In the demo only: stands in for plugging devices in and out, and for their coming back under another letter. */
export function DemoDevices() {
  const status = useStatus();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (!status.data?.demo) return null;
  return (
    <>
      <Button onClick={(e) => setAnchor(e.currentTarget)} sx={{ color: 'var(--top-text)' }} aria-haspopup="dialog">
        Demo devices
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
      >
        <Suspense>
          <DevicesPanel withStandIns={status.data.standIns} />
        </Suspense>
      </Popover>
    </>
  );
}
