import { Box, Button, Checkbox, Stack, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { isCollection } from '@rootmap/core';
import type { EditionLook, SourcesView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { bytes, day, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ErrorState, Sheet, Tag } from '../parts/states.js';
import { CopyAnewDialog } from './copy-anew-dialog.js';
import { VirtualTable } from '../parts/virtual-table.js';

interface Props {
  readonly projectKey: string;
  readonly sources: SourcesView;
  readonly onFetch: (address: string) => void;
}

interface Row {
  /** An address; of a collection, which is copied to a table, each of its tables is a row. */
  readonly key: string;
  readonly address: string;
  readonly degrees: readonly number[] | null;
  readonly ids: readonly string[];
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
    onSuccess: (found) => setLooks((before) => new Map([...before, ...found.map((l) => [lookKey(l), l] as const)])),
  });
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [copying, setCopying] = useState<string | null>(null);
  if (rows.length === 0) return null;
  const some = rows.filter((r) => chosen.has(r.key));
  const toggle = (row: Row): void =>
    setChosen((before) => new Set(before.has(row.key) ? [...before].filter((k) => k !== row.key) : [...before, row.key]));
  return (
    <Sheet sx={{ p: 1.5, mt: 1.5, display: 'flex', flexDirection: 'column' }}>
      <Box component="section" aria-label="Newer editions">
        <Stack direction="row" sx={{ alignItems: 'center', gap: 1.5, mb: 1 }}>
          <Typography variant="h3" component="h2" sx={{ flex: 1 }}>
            {many(rows.length, 'address', 'addresses')} that data came from
          </Typography>
          <Button variant="outlined" disabled={look.isPending} onClick={() => look.mutate(some.map((r) => r.address))}>
            {look.isPending ? 'Asking…' : some.length > 0 ? `Look for new editions of ${some.length}` : 'Look for new editions'}
          </Button>
        </Stack>
        {look.isError && <ErrorState error={look.error} />}
        <Box sx={{ height: Math.min(280, rows.length * 52 + 4), display: 'flex' }}>
          <VirtualTable
            label="Addresses that data came from"
            items={rows}
            rowHeight={52}
            columns="28px minmax(0, 1.2fr) minmax(0, 1fr) 96px minmax(0, 1fr) 150px"
            keyOf={(r) => r.key}
            cells={(r) => (
              <Cells
                row={r}
                look={looks.get(lookKey(r)) ?? null}
                isChosen={chosen.has(r.key)}
                onChoose={() => toggle(r)}
                onCopy={() => setCopying(r.ids[0]!)}
                isAsking={look.isPending}
                onLook={() => look.mutate([r.address])}
                onFetch={() => onFetch(r.address)}
              />
            )}
          />
        </Box>
      </Box>
      {copying !== null && <CopyAnewDialog projectKey={projectKey} dataset={copying} onClose={() => setCopying(null)} />}
    </Sheet>
  );
}

const lookKey = ({ address, degrees }: Pick<EditionLook, 'address' | 'degrees'>): string => `${address} ${degrees?.join(',') ?? ''}`;

function rowsOf(sources: SourcesView): Row[] {
  const all = new Map<string, Omit<Row, 'ids' | 'names'> & { ids: string[]; names: string[]; usedBy: number }>();
  for (const { id, origin, usedBy } of sources.sources) {
    if (!origin || !/^https?:\/\//i.test(origin.address)) continue;
    const { address, fetched } = origin;
    const key = isCollection(address) ? id : address;
    const degrees = origin.edition?.degrees ?? null;
    const row = all.get(key) ?? { key, address, degrees, ids: [], names: [], fetched, usedBy: 0 };
    row.ids.push(id);
    row.names.push(id.slice(id.lastIndexOf('/') + 1));
    row.usedBy += usedBy;
    all.set(key, row);
  }
  return [...all.values()];
}

const CUT = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

interface CellsProps {
  readonly row: Row;
  readonly look: EditionLook | null;
  readonly isAsking: boolean;
  readonly isChosen: boolean;
  readonly onChoose: () => void;
  readonly onLook: () => void;
  readonly onCopy: () => void;
  readonly onFetch: () => void;
}

function Cells({ row, look, isAsking, isChosen, onChoose, onLook, onCopy, onFetch }: CellsProps) {
  const isRecords = isCollection(row.address);
  return (
    <>
      <span role="cell">
        <Checkbox
          size="small"
          sx={{ p: 0.5 }}
          checked={isChosen}
          onChange={onChoose}
          slotProps={{ input: { 'aria-label': `Choose ${row.names[0]}` } }}
        />
      </span>
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
        {look && (look.state === 'changed' || look.state === 'not-told') ? (
          <Button size="small" variant="contained" onClick={isRecords ? onCopy : onFetch}>
            {isRecords ? 'Copy it to compare' : 'Fetch it to compare'}
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
