import { Box, Button } from '@mui/material';
import { visuallyHidden } from '@mui/utils';
import { useState, type ReactNode } from 'react';
import type { FactsView } from '@rootmap/core/contract';
import { day, kindWord, many, number } from '../parts/format.js';

const FACTS: readonly [string, (f: FactsView) => string][] = [
  ['Records', (f) => (f.count === null ? '' : number(f.count))],
  ['Vertices', (f) => (f.vertices === null ? '' : number(f.vertices))],
  ['Kind', (f) => kindWord(f.geometry)],
  ['Format', (f) => f.format],
  ['CRS', (f) => f.crs ?? ''],
  ['Extent', (f) => f.extent?.map((v) => number(Math.round(v * 100) / 100)).join(' ') ?? ''],
  ['Fields', (f) => (f.fields === null ? '' : number(f.fields.length))],
  ['Changed on', (f) => (f.modified ? day(f.modified) : '')],
  ['Content', (f) => (f.hash ? `${f.hash.slice(7, 11)}…${f.hash.slice(-4)}` : '')],
];

interface Props {
  readonly remembered: FactsView | null;
  readonly found: FactsView | null;
  /** Fields that style, label or filter use. */
  readonly needs: readonly string[];
}

/** The numbers side by side, then the fields. */
export function Facts({ remembered, found, needs }: Props) {
  const rows = FACTS.map(([label, of]) => ({ label, a: remembered ? of(remembered) : '', b: found ? of(found) : '' })).filter(
    (r) => r.a !== '' || r.b !== '',
  );
  if (rows.length === 0) return null;
  return (
    <>
      <SideBySide what="Fact" isFound={found !== null} rows={rows.map((r) => ({ ...r, note: null }))} />
      <Fields remembered={remembered} found={found} needs={needs} />
    </>
  );
}

/** Open by itself where a field differs; else told in a sentence, and shown on request. */
function Fields({ remembered, found, needs }: Props) {
  const rows = fieldRows(remembered, found, needs);
  const differing = remembered?.fields && found?.fields ? rows.filter((r) => r.a !== r.b).length : 0;
  const [isOpen, setOpen] = useState(differing > 0);
  if (rows.length === 0) return null;
  return (
    <Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, fontSize: 13 }}>
        <span>
          {differing > 0
            ? `${many(differing, 'field')} of ${rows.length} ${differing === 1 ? 'differs' : 'differ'}`
            : found?.fields && remembered?.fields
              ? rows.length === 1
                ? 'The one field agrees'
                : `All ${many(rows.length, 'field')} agree`
              : many(rows.length, 'field')}
        </span>
        <Button size="small" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          {isOpen ? 'Hide the fields' : 'Show the fields'}
        </Button>
      </Box>
      {isOpen && <SideBySide what="Field" isFound={found !== null} rows={rows} />}
    </Box>
  );
}

interface Row {
  readonly label: string;
  readonly a: string;
  readonly b: string;
  readonly note: string | null;
}

function fieldRows(remembered: FactsView | null, found: FactsView | null, needs: readonly string[]): Row[] {
  const [a, b] = [new Map(remembered?.fields ?? []), new Map(found?.fields ?? [])];
  return [...new Set([...a.keys(), ...needs, ...b.keys()])].map((name) => ({
    label: name,
    a: a.get(name) ?? '',
    b: b.get(name) ?? '',
    note: needs.includes(name) ? 'needed' : null,
  }));
}

function SideBySide({ what, isFound, rows }: { what: string; isFound: boolean; rows: readonly Row[] }) {
  return (
    <Box
      component="table"
      sx={{
        width: '100%',
        borderCollapse: 'collapse',
        fontSize: 13,
        '& td, & th': { borderBottom: '1px solid var(--rule)', py: 0.375, pr: 1, textAlign: 'left', fontWeight: 400 },
        '& td': { overflowWrap: 'anywhere' },
      }}
    >
      <thead>
        <tr>
          <th>
            <Hidden>{what}</Hidden>
          </th>
          <Box component="th" sx={{ color: 'text.secondary' }}>
            remembered
          </Box>
          {isFound && (
            <Box component="th" sx={{ color: 'text.secondary' }}>
              found
            </Box>
          )}
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <tr key={r.label}>
            <th scope="row">
              {r.label}
              {r.note && <span style={{ color: 'var(--spruce)' }}> · {r.note}</span>}
            </th>
            <td className="mono">{r.a || (what === 'Fact' ? 'not known' : '–')}</td>
            {isFound && (
              <Box component="td" className="mono" sx={{ color: r.a && r.b && r.a !== r.b ? 'var(--ochre)' : undefined }}>
                {r.b || (what === 'Fact' ? 'not known' : '–')}
                {r.a && r.b && r.a !== r.b ? ' ≠' : ''}
              </Box>
            )}
          </tr>
        ))}
      </tbody>
    </Box>
  );
}

const Hidden = ({ children }: { children: ReactNode }) => (
  <Box component="span" sx={visuallyHidden}>
    {children}
  </Box>
);
