import { Button } from '@mui/material';
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
      <Suspense>{anchor && <DevicesPanel anchor={anchor} withStandIns={status.data.standIns} onClose={() => setAnchor(null)} />}</Suspense>
    </>
  );
}
