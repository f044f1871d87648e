import { Button } from '@mui/material';
import { isPressed } from '../frame/single-keys.js';
import { lazy, Suspense, useEffect, useState } from 'react';

const PageHelp = lazy(() => import('./page-help.js'));

/** Opens the help of the page that is open; the key `?` does, too. */
export function HelpButton({ sx }: { sx: object }) {
  const [isOpen, setOpen] = useState(false);
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (!isPressed(event, '?')) return;
      event.preventDefault();
      setOpen(true);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <>
      <Button onClick={() => setOpen(true)} aria-haspopup="dialog" sx={sx}>
        Help
      </Button>
      <Suspense>{isOpen && <PageHelp onClose={() => setOpen(false)} />}</Suspense>
    </>
  );
}
