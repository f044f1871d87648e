import { Box, ButtonBase } from '@mui/material';
import { ELEMENTS } from '@rootmap/core';
import type { QualityRow } from '@rootmap/core/contract';
import { many } from '../parts/format.js';
import { tableRoom } from '../parts/side-by-side.js';
import { Tag } from '../parts/states.js';
import { VirtualTable } from '../parts/virtual-table.js';
import { ALL_ELEMENTS, RESULT_TONE, RESULT_WORD, SHORT, STATE_TONE, STATE_WORD } from './quality-words.js';

interface Props {
  readonly rows: readonly QualityRow[];
  readonly chosen: QualityRow | null;
  readonly onChoose: (id: string) => void;
}

const WIDE = `minmax(0, 1fr) 104px repeat(${ALL_ELEMENTS.length}, 70px)`;
const NARROW = 'minmax(0, 1fr) 104px 150px';
const CUT = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

/** Datasets against elements: what was found, by mark and word. Beside an open sheet only the counts stand. */
export function QualityMatrix({ rows, chosen, onChoose }: Props) {
  const isNarrow = chosen !== null;
  const columns = isNarrow ? NARROW : WIDE;
  return (
    <Box sx={{ ...tableRoom(isNarrow ? 0 : 1080), display: 'flex', flexDirection: 'column', flex: 1, minHeight: 0 }}>
      {!isNarrow && (
        <div
          aria-hidden
          style={{
            display: 'grid',
            gridTemplateColumns: columns,
            gap: 8,
            padding: '4px 8px',
            overflow: 'hidden',
            scrollbarGutter: 'stable',
            fontSize: 12,
            color: 'var(--soft)',
            borderBottom: '1px solid var(--rule)',
          }}
        >
          <span>Dataset</span>
          <span>Sheet</span>
          {ALL_ELEMENTS.map((e) => (
            <span key={e} title={ELEMENTS[e]}>
              {SHORT[e]}
            </span>
          ))}
        </div>
      )}
      <VirtualTable
        label="Quality of the data"
        items={rows}
        rowHeight={36}
        columns={columns}
        sx={{ scrollbarGutter: 'stable' }}
        keyOf={(r) => r.id}
        cells={(r) => <Cells row={r} isNarrow={isNarrow} isChosen={r === chosen} onChoose={() => onChoose(r.id)} />}
      />
    </Box>
  );
}

interface CellsProps {
  readonly row: QualityRow;
  readonly isNarrow: boolean;
  readonly isChosen: boolean;
  readonly onChoose: () => void;
}

const Cells = ({ row, isNarrow, isChosen, onChoose }: CellsProps) => (
  <>
    <span role="cell" style={{ minWidth: 0 }}>
      <ButtonBase
        onClick={onChoose}
        aria-pressed={isChosen}
        className="mono"
        title={row.name}
        sx={{ font: 'inherit', fontWeight: isChosen ? 650 : 400, color: 'var(--ink)', maxWidth: '100%', display: 'block', ...CUT }}
      >
        {row.name}
      </ButtonBase>
    </span>
    <span role="cell">
      <Tag tone={row.problem ? 'plum' : STATE_TONE[row.state]}>{row.problem ? 'damaged' : STATE_WORD[row.state]}</Tag>
    </span>
    {isNarrow ? (
      <span role="cell" style={{ color: 'var(--soft)' }}>
        {row.at === null
          ? ''
          : row.fails + row.notes === 0
            ? 'all fine'
            : [row.fails > 0 && many(row.fails, 'fault'), row.notes > 0 && `${row.notes} to look at`].filter(Boolean).join(', ')}
      </span>
    ) : (
      ALL_ELEMENTS.map((e) => {
        const result = row.elements[e];
        return (
          <span role="cell" key={e} aria-label={`${SHORT[e]}: ${result ? RESULT_WORD[result] : 'not told'}`}>
            {result && <Tag tone={RESULT_TONE[result]}>{RESULT_WORD[result]}</Tag>}
          </span>
        );
      })
    )}
  </>
);
