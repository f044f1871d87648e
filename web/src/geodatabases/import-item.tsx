import { Box, Button, MenuItem, TextField } from '@mui/material';
import { refusedBy, type ThreeBands } from '@rootmap/core';
import type { ImportPlanItem, ShapePart } from '@rootmap/core/contract';
import { ThreeBandsField } from '../parts/band-field.js';
import { kindWord, many } from '../parts/format.js';
import { LossLine } from '../parts/loss-line.js';
import { TextReadingCard } from './text-reading.js';

interface ItemProps {
  readonly item: ImportPlanItem;
  /** The first of its dataset. */
  readonly isFirst: boolean;
  readonly name: string;
  readonly onName: (name: string) => void;
  /** Null: all kinds of its shapes go into one table. */
  readonly onSplit: (parts: readonly ShapePart[] | null) => void;
  /** Other bands of it are chosen, too. */
  readonly isOneOfBands: boolean;
  /** None: its colours, or its first band. */
  readonly onBands: (bands: readonly number[]) => void;
  readonly onComposite: (three: ThreeBands) => void;
}

const EACH = -1;
const COMPOSITE = -2;
const bandsOf = (chosen: number, all: readonly number[]): readonly number[] => (chosen === EACH ? all : chosen === 0 ? [] : [chosen]);

/** One table that a dataset becomes: its name, what is changed on the way, or why it is left out. */
export function ImportItemRow({ item, isFirst, isOneOfBands, name, onName, onSplit, onBands, onComposite }: ItemProps) {
  const main = item.dataset.slice(item.dataset.lastIndexOf('/') + 1);
  const piece = item.part ?? (isOneOfBands ? `band ${item.band}` : null);
  const file = piece === null ? main : `${main}, ${piece}`;
  const all = Array.from({ length: item.bands }, (_, i) => i + 1);
  const chosen = isOneOfBands ? EACH : item.composite ? COMPOSITE : (item.band ?? 0);
  return (
    <Box
      role="group"
      aria-label={file}
      sx={{
        display: 'grid',
        gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) 260px' },
        gap: 1.5,
        py: 1,
        borderBottom: '1px solid var(--rule)',
        fontSize: 13,
      }}
    >
      <Box>
        <span className="mono">{file}</span>{' '}
        <span style={{ color: 'var(--soft)' }}>
          {[
            item.part === null && (item.kind === 'raster' ? 'raster' : kindWord(item.geometry) || 'table'),
            item.records !== null && many(item.records, 'record'),
            item.crs,
          ]
            .filter(Boolean)
            .join(', ')}
        </span>
        {item.reading && <TextReadingCard reading={item.reading} file={file} />}
        <LossLine losses={item.losses} isPlan />
        {item.notes.map((note) => (
          <div key={note}>{note}</div>
        ))}
        {item.bands > 0 && isFirst && <WhatOfBands item={item} chosen={chosen} all={all} onBands={onBands} onComposite={onComposite} />}
        {item.parts.length > 1 && (
          <Button size="small" onClick={() => onSplit(item.parts)}>
            One table for each kind
          </Button>
        )}
        {item.part !== null && isFirst && (
          <div>
            <Button size="small" onClick={() => onSplit(null)}>
              One table for all kinds
            </Button>
          </div>
        )}
        {item.why !== null && <Box sx={{ color: 'var(--plum)' }}>Left out: {item.why}.</Box>}
      </Box>
      <TextField
        label="Table"
        value={name}
        onChange={(e) => onName(e.target.value)}
        error={item.why !== null}
        helperText={name === '' ? null : notTakenBy(name)}
        slotProps={{ htmlInput: { className: 'mono', 'aria-label': `Table of ${file}` } }}
      />
    </Box>
  );
}

interface BandsProps extends Pick<ItemProps, 'item' | 'onBands' | 'onComposite'> {
  readonly chosen: number;
  readonly all: readonly number[];
}

/** Which bands of a raster come in, or three of them as a picture. */
const WhatOfBands = ({ item, chosen, all, onBands, onComposite }: BandsProps) => (
  <div>
    <TextField
      select
      size="small"
      label="What of it"
      value={chosen}
      onChange={(e) => {
        const wanted = Number(e.target.value);
        if (wanted === COMPOSITE) onComposite([1, 2, 3]);
        else onBands(bandsOf(wanted, all));
      }}
      sx={{ my: 0.75, width: 260 }}
    >
      <MenuItem value={0}>As it is shown by itself</MenuItem>
      {all.map((band) => (
        <MenuItem key={band} value={band}>
          Band {band}
        </MenuItem>
      ))}
      {all.length > 1 && <MenuItem value={EACH}>Each of its {all.length} bands, as a table</MenuItem>}
      {all.length > 2 && <MenuItem value={COMPOSITE}>Three of its bands, as a picture</MenuItem>}
    </TextField>
    {item.composite && <ThreeBandsField value={item.composite} bands={item.bands} onChange={onComposite} />}
  </div>
);

/** The first that does not take the name of a table, and how many more do not. */
function notTakenBy(name: string): string | null {
  const [first, ...more] = refusedBy('table', name);
  return first ? `Not taken by ${first.target}: ${first.why}${more.length > 0 ? `; and ${more.length} more` : ''}.` : null;
}
