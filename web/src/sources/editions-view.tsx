import { Box, Button, Stack, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import type { EditionLook, SourcesView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { bytes, day, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Sheet, Tag } from '../parts/states.js';
import { VirtualTable } from '../parts/virtual-table.js';

interface Props {
  readonly projectKey: string;
  readonly sources: SourcesView;
  readonly onFetch: (address: string) => void;
}

interface Row {
  readonly address: string;
  readonly names: readonly string[];
  readonly fetched: string;
  readonly usedBy: number;
}

const STATES: Readonly<Record<EditionLook['state'], { readonly word: string; readonly tone: 'spruce' | 'ochre' | 'plum' | 'slate' }>> = {
  unchanged: { word: 'unchanged', tone: 'spruce' },
  changed: { word: 'changed', tone: 'ochre' },
  gone: { word: 'gone', tone: 'plum' },
  'not-told': { word: 'not told', tone: 'slate' },
  failed: { word: 'no answer', tone: 'plum' },
};

/** Addresses that data came from: whether something newer stands there. */
export function EditionsView({ projectKey, sources, onFetch }: Props) {
  const rows = useMemo(() => rowsOf(sources), [sources]);
  const [looks, setLooks] = useState<ReadonlyMap<string, EditionLook>>(new Map());
  const look = useMutation({
    mutationFn: (addresses: readonly string[]) => api.lookForEditions(projectKey, addresses),
    onSuccess: (found) => setLooks((before) => new Map([...before, ...found.map((l) => [l.address, l] as const)])),
  });
  if (rows.length === 0) return null;
  return (
    <Sheet sx={{ p: 1.5, mt: 1.5, display: 'flex', flexDirection: 'column' }}>
      <Box component="section" aria-label="Newer editions">
        <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5, mb: 1 }}>
          <Typography variant="h3" component="h2" sx={{ flex: 1 }}>
            {many(rows.length, 'address', 'addresses')} that data came from
          </Typography>
          <Button variant="outlined" disabled={look.isPending} onClick={() => look.mutate([])}>
            {look.isPending ? 'Asking…' : 'Look for new editions'}
          </Button>
        </Stack>
        {look.isError && <ErrorState error={look.error} />}
        <Box sx={{ height: Math.min(280, rows.length * 52 + 4), display: 'flex' }}>
          <VirtualTable
            label="Addresses that data came from"
            items={rows}
            rowHeight={52}
            columns="minmax(0, 1.2fr) minmax(0, 1fr) 96px minmax(0, 1fr) 150px"
            keyOf={(r) => r.address}
            cells={(r) => (
              <Cells
                row={r}
                look={looks.get(r.address) ?? null}
                isAsking={look.isPending}
                onLook={() => look.mutate([r.address])}
                onFetch={() => onFetch(r.address)}
              />
            )}
          />
        </Box>
      </Box>
    </Sheet>
  );
}

function rowsOf(sources: SourcesView): Row[] {
  const all = new Map<string, { names: string[]; fetched: string; usedBy: number }>();
  for (const { id, origin, usedBy } of sources.sources) {
    if (!origin || !/^https?:\/\//i.test(origin.address)) continue;
    const row = all.get(origin.address) ?? { names: [], fetched: origin.fetched, usedBy: 0 };
    row.names.push(id.slice(id.lastIndexOf('/') + 1));
    row.usedBy += usedBy;
    all.set(origin.address, row);
  }
  return [...all].map(([address, row]) => ({ address, ...row }));
}

const CUT = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

interface CellsProps {
  readonly row: Row;
  readonly look: EditionLook | null;
  readonly isAsking: boolean;
  readonly onLook: () => void;
  readonly onFetch: () => void;
}

function Cells({ row, look, isAsking, onLook, onFetch }: CellsProps) {
  const isRecords = /\/collections\/[^/]+\/items\/?$/.test(row.address);
  return (
    <>
      <span role="cell" style={{ minWidth: 0 }}>
        <PathText path={row.address} most={48} isInRow />
      </span>
      <span role="cell" style={CUT} title={row.names.join(', ')}>
        {row.names.slice(0, 2).join(', ')}
        {row.names.length > 2 ? ` and ${row.names.length - 2} more` : ''}
      </span>
      <span role="cell" style={{ color: 'var(--soft)' }}>
        {row.fetched ? day(row.fetched) : 'no date'}
      </span>
      <span role="cell" style={{ minWidth: 0 }}>
        {look ? (
          <Box sx={{ lineHeight: 1.25 }} title={look.why}>
            <Tag tone={STATES[look.state].tone}>{STATES[look.state].word}</Tag>
            <Box component="span" sx={{ display: 'block', color: 'var(--soft)', fontSize: 12, ...CUT }}>
              {look.state === 'changed' && look.bytesNow !== null && look.bytesBefore !== null
                ? `${bytes(look.bytesBefore)}, now ${bytes(look.bytesNow)}`
                : look.why}
            </Box>
          </Box>
        ) : (
          <span style={{ color: 'var(--soft)' }}>not asked</span>
        )}
      </span>
      <span role="cell">
        {look && (look.state === 'changed' || look.state === 'not-told') && !isRecords ? (
          <Button size="small" variant="contained" onClick={onFetch}>
            Fetch it to compare
          </Button>
        ) : (
          <Button size="small" disabled={isAsking} onClick={onLook}>
            Look
          </Button>
        )}
      </span>
    </>
  );
}
