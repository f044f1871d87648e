import { Box, Button, MenuItem, TextField } from '@mui/material';
import type { ImportPlanItem, ShapePart } from '@rootmap/core/contract';
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
  /** Null: its colours, or its first band. */
  readonly onBand: (band: number | null) => void;
}

/** One table that a dataset becomes: its name, what is changed on the way, or why it is left out. */
export function ImportItemRow({ item, isFirst, name, onName, onSplit, onBand }: ItemProps) {
  const main = item.dataset.slice(item.dataset.lastIndexOf('/') + 1);
  const file = item.part === null ? main : `${main}, ${item.part}`;
  return (
    <Box
      role="group"
      aria-label={file}
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(0, 1fr) 260px',
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
        {item.bands > 0 && (
          <div>
            <TextField
              select
              size="small"
              label="What of it"
              value={item.band ?? 0}
              onChange={(e) => onBand(Number(e.target.value) || null)}
              sx={{ my: 0.75, width: 220 }}
            >
              <MenuItem value={0}>As it is shown by itself</MenuItem>
              {Array.from({ length: item.bands }, (_, i) => (
                <MenuItem key={i} value={i + 1}>
                  Band {i + 1}
                </MenuItem>
              ))}
            </TextField>
          </div>
        )}
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
        slotProps={{ htmlInput: { className: 'mono', 'aria-label': `Table of ${file}` } }}
      />
    </Box>
  );
}
