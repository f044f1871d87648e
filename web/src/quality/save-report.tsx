import { Button, Menu, MenuItem } from '@mui/material';
import { useState } from 'react';

const FILES = { pdf: 'Pages of paper (PDF)', html: 'A page (HTML)', csv: 'A table (CSV)', json: 'Data (JSON)' } as const;

/** All sheets, or that of one dataset, as a file. */
export function SaveReport({ projectKey, dataset, disabled }: { projectKey: string; dataset: string | null; disabled: boolean }) {
  const of = dataset === null ? '' : `&dataset=${encodeURIComponent(dataset)}`;
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        variant={dataset === null ? 'outlined' : 'text'}
        size="small"
        aria-haspopup="menu"
        disabled={disabled}
        onClick={(e) => setAnchor(e.currentTarget)}
      >
        {dataset === null ? 'Save the sheets' : 'Save it'}
      </Button>
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {Object.entries(FILES).map(([format, label]) => (
          <MenuItem
            key={format}
            component="a"
            href={`/api/projects/${projectKey}/quality/report?format=${format}${of}`}
            onClick={() => setAnchor(null)}
          >
            {label}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
