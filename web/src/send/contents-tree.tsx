import { Box, Typography } from '@mui/material';
import { useMemo, useState } from 'react';
import type { ContentView } from '@rootmap/core/contract';
import { bytes } from '../parts/format.js';
import { VirtualTable } from '../parts/virtual-table.js';

const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);
const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));
const depthOf = (path: string): number => path.split('/').length - 1;

/** Why a thing is in: the layer that needs it. */
function whyOf({ uses, from }: ContentView): string {
  const [first] = uses;
  if (from === 'made') return 'made for the bundle';
  if (first) return uses.length > 1 ? `${first.layer}, ${uses.length - 1} more` : first.layer;
  return from === 'along' ? 'comes along' : from === 'added' ? 'added' : '';
}

/** The bundle as a tree, folders first, with sizes, and why each thing is in. */
export function ContentsTree({ contents }: { contents: readonly ContentView[] }) {
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const rows = useMemo(() => visible(contents, open), [contents, open]);
  const toggle = (path: string): void =>
    setOpen((now) => {
      const next = new Set(now);
      if (!next.delete(path)) next.add(path);
      return next;
    });
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', minHeight: 220, flex: 1 }}>
      <Typography variant="h3" sx={{ mb: 0.5 }}>
        In the bundle
      </Typography>
      <VirtualTable
        label="In the bundle"
        items={rows}
        keyOf={(row) => row.path}
        rowHeight={28}
        columns="minmax(0, 1.5fr) minmax(0, 1fr) 72px"
        sx={{ border: '1px solid var(--rule)', borderRadius: '4px' }}
        cells={(row) => (
          <>
            <Box
              role="cell"
              sx={{ pl: depthOf(row.path) * 1.25, minWidth: 0, overflow: 'hidden', whiteSpace: 'nowrap', textOverflow: 'ellipsis' }}
            >
              {row.isFolder ? (
                <button className="tree-toggle" aria-expanded={open.has(row.path)} onClick={() => toggle(row.path)} title={row.path}>
                  {open.has(row.path) ? '▾' : '▸'} {nameOf(row.path)}/
                </button>
              ) : (
                <span className="mono" title={row.path}>
                  {nameOf(row.path)}
                </span>
              )}
            </Box>
            <Box
              role="cell"
              sx={{ color: 'text.secondary', overflow: 'hidden', whiteSpace: 'nowrap', textOverflow: 'ellipsis' }}
              title={row.uses.map((u) => `${u.layer} in ${u.map}`).join('\n')}
            >
              {row.isFolder ? `${row.files} ${row.files === 1 ? 'file' : 'files'}` : whyOf(row)}
            </Box>
            <Box role="cell" sx={{ textAlign: 'right' }}>
              {bytes(row.bytes)}
            </Box>
          </>
        )}
      />
    </Box>
  );
}

/** Rows of open folders, each folder's things behind it: folders first, then by name. */
function visible(contents: readonly ContentView[], open: ReadonlySet<string>): ContentView[] {
  const below = new Map<string, ContentView[]>();
  for (const row of contents) {
    const folder = folderOf(row.path);
    const list = below.get(folder);
    if (list) list.push(row);
    else below.set(folder, [row]);
  }
  const rows: ContentView[] = [];
  const walk = (folder: string): void => {
    const list = [...(below.get(folder) ?? [])].sort(
      (a, b) => Number(b.isFolder) - Number(a.isFolder) || a.path.localeCompare(b.path, 'en'),
    );
    for (const row of list) {
      rows.push(row);
      if (row.isFolder && open.has(row.path)) walk(row.path);
    }
  };
  walk('');
  return rows;
}
