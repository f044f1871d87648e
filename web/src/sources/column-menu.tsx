import { mdiViewColumnOutline } from '@mdi/js';
import { Button, Checkbox, ListItemText, Menu, MenuItem } from '@mui/material';
import { useState } from 'react';
import { Icon } from '../parts/icon.js';
import { COLUMNS, FIRST_SHOWN } from './dataset-columns.js';
import type { Column } from './dataset-rows.js';

const KEPT = 'rootmap.dataset-columns';

/** Which columns are shown, kept for the next visit. */
export function useColumns(): readonly [readonly Column[], (shown: readonly Column[]) => void] {
  const [shown, setShown] = useState<readonly Column[]>(() => {
    const kept = localStorage.getItem(KEPT)?.split(',') ?? [];
    const known = COLUMNS.map((c) => c.column).filter((c) => kept.includes(c));
    return known.length > 0 ? known : FIRST_SHOWN;
  });
  const set = (now: readonly Column[]): void => {
    localStorage.setItem(KEPT, now.join(','));
    setShown(now);
  };
  return [shown, set];
}

export function ColumnMenu({ shown, onChange }: { shown: readonly Column[]; onChange: (shown: readonly Column[]) => void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        startIcon={<Icon path={mdiViewColumnOutline} aria-hidden />}
        aria-haspopup="menu"
        aria-expanded={anchor !== null}
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        Columns
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {COLUMNS.map(({ column, label }) => {
          const isShown = shown.includes(column);
          return (
            <MenuItem
              key={column}
              dense
              role="menuitemcheckbox"
              aria-checked={isShown}
              disabled={column === 'name'}
              onClick={() => onChange(COLUMNS.map((c) => c.column).filter((c) => (c === column ? !isShown : shown.includes(c))))}
            >
              <Checkbox size="small" checked={isShown} tabIndex={-1} aria-hidden sx={{ p: 0.5 }} />
              <ListItemText>{label}</ListItemText>
            </MenuItem>
          );
        })}
      </Menu>
    </>
  );
}
