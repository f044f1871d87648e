import { Box, Tooltip } from '@mui/material';
import { shortPath } from '../parts/format.js';
import { clip, RIGHT, RIGHT_X, ROW, rowLook } from './diagram-geometry.js';
import type { SourceBox } from './source-boxes.js';
import type { Sight } from './use-in-sight.js';

interface Picking {
  readonly onMark: (id: string | null) => void;
  readonly onPick: (id: string | null) => void;
}

interface Props extends Picking {
  readonly box: SourceBox;
  readonly sight: Sight;
  readonly marked: string | null;
  readonly picked: string | null;
}

/** The root, a linked folder, a place or a service, and the data in it. */
export function SourcesBox({ box: b, sight, marked, onMark, onPick, picked }: Props) {
  return (
    <Box
      component="section"
      aria-label={b.title}
      sx={{ position: 'absolute', left: RIGHT_X, top: b.y, width: RIGHT, height: b.height, opacity: b.present ? 1 : 0.75 }}
    >
      <BoxTitle box={b} />
      {b.rows
        .filter((r) => r.y >= sight.from && r.y <= sight.to)
        .map((r) =>
          r.kind === 'dataset' ? (
            <DatasetEntry
              key={r.id}
              row={r}
              top={r.y - b.y - ROW / 2 + 1.5}
              isInRoot={b.kind === 'root'}
              isMarked={marked === r.id}
              isPicked={picked === r.id}
              onMark={onMark}
              onPick={onPick}
            />
          ) : (
            <Tooltip key={r.id} title={r.label.length > 40 ? r.label : ''}>
              <Box
                className="mono"
                sx={{ position: 'absolute', top: r.y - b.y - 10, left: 38, right: 12, fontSize: 12.5, color: 'var(--soft)', ...clip }}
              >
                {shortPath(r.label, 44)}
              </Box>
            </Tooltip>
          ),
        )}
    </Box>
  );
}

const BoxTitle = ({ box: b }: { box: SourceBox }) =>
  b.kind === 'root' ? (
    <Box
      className="mono"
      sx={{
        position: 'absolute',
        top: -10,
        left: 14,
        px: 1,
        height: 20,
        lineHeight: '20px',
        fontSize: 12.5,
        bgcolor: 'var(--ink)',
        color: 'var(--paper)',
        borderRadius: '3px',
        maxWidth: RIGHT - 40,
        ...clip,
      }}
    >
      {b.title}
    </Box>
  ) : (
    <Box sx={{ display: 'flex', justifyContent: 'space-between', px: 1.75, pt: 0.75, fontSize: 12.5, gap: 1 }}>
      <Box className="mono" sx={{ fontWeight: 700, color: b.kind === 'service' ? 'var(--slate)' : 'var(--ink)' }}>
        {b.title}
      </Box>
      <Box sx={{ color: 'text.secondary' }}>{b.note}</Box>
    </Box>
  );

interface EntryProps extends Picking {
  readonly row: SourceBox['rows'][number];
  /** Pixels below the top of the box. */
  readonly top: number;
  readonly isInRoot: boolean;
  readonly isMarked: boolean;
  readonly isPicked: boolean;
}

const DatasetEntry = ({ row: r, top, isInRoot, isMarked, isPicked, onMark, onPick }: EntryProps) => (
  <Box
    component="button"
    data-side="right"
    data-id={r.id}
    aria-pressed={isPicked}
    onMouseEnter={() => onMark(r.id)}
    onFocus={() => onMark(r.id)}
    onBlur={() => onMark(null)}
    onClick={() => onPick(isPicked ? null : r.id)}
    className="mono"
    sx={{
      ...rowLook,
      top,
      height: ROW - 3,
      left: 24,
      right: 14,
      pl: 1.75,
      width: RIGHT - 38,
      border: 0,
      font: 'inherit',
      fontFamily: 'Iosevka, monospace',
      fontSize: 13,
      cursor: 'pointer',
      bgcolor: isMarked || isPicked ? 'var(--sunk)' : isInRoot ? 'var(--spruce-wash)' : 'var(--sunk)',
    }}
  >
    <Box component="span" sx={clip}>
      {r.label}
    </Box>
    {'dataset' in r && r.dataset && r.dataset.state !== 'ok' && (
      <Box component="span" sx={{ color: 'var(--ochre)', fontSize: 12 }}>
        {r.dataset.state}
      </Box>
    )}
  </Box>
);
