import { Box, Button, TextField } from '@mui/material';
import { useState } from 'react';
import type { Look, ShapeKind, VectorLook } from '@rootmap/core';
import type { LayerPictureView } from '@rootmap/core/contract';
import { number } from '../../parts/format.js';
import { symbolOfLook, toned } from './new-look.js';
import { NumberField } from './number-field.js';
import { SymbolSwatch } from './swatch.js';
import { SymbolEditor } from './symbol-editor.js';

type Keyed = Extract<VectorLook, { kind: 'by-value' | 'by-class' }>;

/** The values or classes of a look, each with its symbol, title and number of records. */
export function LookEntries({
  look,
  kind,
  picture,
  onChange,
}: {
  look: Keyed;
  kind: ShapeKind;
  picture: LayerPictureView | null;
  onChange: (look: Look, what?: string) => void;
}) {
  const [open, setOpen] = useState<number | null>(null);
  const set = (i: number, more: object): void =>
    onChange({ ...look, entries: look.entries.map((e, k) => (k === i ? { ...e, ...more } : e)) } as Look, `entry ${i}`);
  return (
    <Box
      component="ul"
      aria-label={look.kind === 'by-value' ? 'Values' : 'Classes'}
      sx={{ listStyle: 'none', m: 0, p: 0, maxHeight: 260, overflow: 'auto', fontSize: 13 }}
    >
      {look.entries.map((e, i) => (
        <Box component="li" key={i} sx={{ borderTop: '1px solid var(--rule)', py: 0.25 }}>
          <Box sx={{ display: 'grid', gridTemplateColumns: '40px minmax(0,1fr) auto auto', alignItems: 'center', gap: 1 }}>
            <Button
              size="small"
              sx={{ minWidth: 0, p: 0.5 }}
              aria-label={`Symbol of ${e.title}`}
              aria-expanded={open === i}
              onClick={() => setOpen(open === i ? null : i)}
            >
              <SymbolSwatch symbol={e.symbol} kind={kind} />
            </Button>
            <TextField
              variant="standard"
              value={e.title}
              onChange={(x) => set(i, { title: x.target.value })}
              slotProps={{ htmlInput: { 'aria-label': `Title of entry ${i + 1}` } }}
            />
            <span className="mono">{picture ? number(picture.counts[i] ?? 0) : ''}</span>
            {look.kind === 'by-value' ? (
              <Button
                size="small"
                sx={{ minWidth: 0 }}
                aria-label={`Leave out ${e.title}`}
                onClick={() => onChange({ ...look, entries: look.entries.filter((_, k) => k !== i) })}
              >
                ✕
              </Button>
            ) : (
              <NumberField
                label="up to"
                value={look.breaks[i + 1]!}
                width={92}
                onChange={(v) => v !== null && onChange(withBreak(look, i + 1, v))}
              />
            )}
          </Box>
          {open === i && (
            <Box sx={{ p: 1 }}>
              <SymbolEditor symbol={e.symbol} kind={kind} onChange={(symbol) => set(i, { symbol })} />
            </Box>
          )}
        </Box>
      ))}
      {look.kind === 'by-value' && (
        <Box component="li" sx={{ borderTop: '1px solid var(--rule)', py: 0.5 }}>
          <Button
            size="small"
            onClick={() => onChange({ ...look, other: look.other ? null : toned(symbolOfLook(look, kind), '#8b948f', kind) })}
          >
            {look.other ? 'Do not draw all others' : 'Draw all others too'}
          </Button>
        </Box>
      )}
    </Box>
  );
}

/** A break that a person typed; it stays between its neighbours. */
function withBreak(look: Extract<VectorLook, { kind: 'by-class' }>, at: number, value: number): Look {
  const low = look.breaks[at - 1]!;
  const high = look.breaks[at + 1] ?? Infinity;
  const breaks = look.breaks.map((b, i) => (i === at ? Math.min(high, Math.max(low, value)) : b));
  const title = (i: number): string => `${Number(breaks[i]!.toPrecision(6))} to ${Number(breaks[i + 1]!.toPrecision(6))}`;
  return {
    ...look,
    method: 'given',
    breaks,
    entries: look.entries.map((e, i) => (i === at || i === at - 1 ? { ...e, title: title(i) } : e)),
  };
}
