import { mdiArrowDown, mdiArrowUp } from '@mdi/js';
import { Box, ButtonBase, Typography } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, type KeyboardEvent, type MouseEvent } from 'react';
import type { RowsPage, RowsRequest } from '@rootmap/core/contract';
import { Icon } from '../parts/icon.js';
import { FIRST_SIGHT, type InSight, type useRows } from './use-rows.js';

const ROW = 28;
const KEY_WIDTH = 72;
const COLUMN_WIDTH = 150;

/** Records that are chosen, by their ids. */
interface Choosing {
  readonly chosen: ReadonlySet<number>;
  /** @param isMore beside those that are chosen already */
  readonly onChoose: (id: number, isMore: boolean) => void;
}

export interface RecordsProps {
  readonly page: RowsPage;
  readonly rowAt: ReturnType<typeof useRows>['rowAt'];
  /** The place of the record that comes in sight, or null. */
  readonly at: number | null;
  readonly sort: RowsRequest['sort'];
  readonly onSort: (sort: RowsRequest['sort']) => void;
  readonly onSight: (sight: (before: InSight) => InSight) => void;
  /** Left out: rows are only read. */
  readonly choosing?: Choosing;
}

/** Only rows in sight are there. With arrow keys the row above or below the last one is chosen. */
export function Records({ page, rowAt, at, sort, onSort, onSight, choosing }: RecordsProps) {
  const box = useRef<HTMLDivElement>(null);
  const last = useRef(-1);
  const virtual = useVirtualizer({
    count: page.found,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 12,
    onChange: (v) => {
      const items = v.getVirtualItems();
      const [first, last] = [items[0]?.index ?? 0, items.at(-1)?.index ?? FIRST_SIGHT.last];
      onSight((before) => (first === before.first && last === before.last ? before : { first, last }));
    },
  });
  useEffect(() => {
    if (at === null) return;
    last.current = at;
    virtual.scrollToIndex(at, { align: 'auto' });
  }, [at, virtual]);
  const choose = (index: number, isMore: boolean): void => {
    const row = rowAt(index);
    if (!row || !choosing) return;
    last.current = index;
    choosing.onChoose(row.id, isMore);
  };
  const onKeyDown = (e: KeyboardEvent): void => {
    const step = e.key === 'ArrowDown' ? 1 : e.key === 'ArrowUp' ? -1 : 0;
    if (step === 0 || !choosing || e.target !== box.current) return;
    e.preventDefault();
    const index = Math.min(page.found - 1, Math.max(0, last.current + step));
    virtual.scrollToIndex(index, { align: 'auto' });
    choose(index, e.shiftKey);
  };
  const least = KEY_WIDTH + page.fields.length * COLUMN_WIDTH;
  const grid = `${KEY_WIDTH}px repeat(${page.fields.length}, minmax(${COLUMN_WIDTH}px, 1fr))`;
  return (
    <Box
      ref={box}
      role={choosing ? 'grid' : 'table'}
      aria-label="Records"
      aria-rowcount={page.found + 1}
      aria-colcount={page.fields.length + 1}
      aria-multiselectable={choosing ? true : undefined}
      onKeyDown={onKeyDown}
      tabIndex={0}
      sx={{ flex: 1, overflow: 'auto', border: '1px solid var(--rule)', borderRadius: 1, outlineOffset: '-2px', ...CELLS }}
    >
      <Head page={page} grid={grid} least={least} sort={sort} onSort={onSort} />
      <Box role="rowgroup" sx={{ height: virtual.getTotalSize(), minWidth: least, position: 'relative' }}>
        {virtual.getVirtualItems().map((item) => {
          const row = rowAt(item.index);
          return (
            <div
              key={item.key}
              role="row"
              aria-rowindex={item.index + 2}
              className={row && choosing?.chosen.has(row.id) ? 'line chosen' : 'line'}
              {...(choosing
                ? {
                    'aria-selected': row !== undefined && choosing.chosen.has(row.id),
                    onClick: (e: MouseEvent) => choose(item.index, e.ctrlKey || e.metaKey || e.shiftKey),
                  }
                : {})}
              style={{ top: item.start, height: ROW, gridTemplateColumns: grid }}
            >
              <div role="rowheader" className="mono soft">
                {row ? row.key : '…'}
              </div>
              {page.fields.map((f, i) => (
                <Value key={f.name} value={row?.values[i] ?? null} role={choosing ? 'gridcell' : 'cell'} />
              ))}
            </div>
          );
        })}
      </Box>
      {page.found === 0 && <Typography sx={{ p: 2 }}>No record is like that. Take a condition away, or look for other words.</Typography>}
    </Box>
  );
}

interface HeadProps {
  readonly page: RowsPage;
  readonly grid: string;
  readonly least: number;
  readonly sort: RowsRequest['sort'];
  readonly onSort: (sort: RowsRequest['sort']) => void;
}

/** A press sorts upwards, the next downwards, the third puts the file's own order back. */
function Head({ page, grid, least, sort, onSort }: HeadProps) {
  const next = (field: string): RowsRequest['sort'] =>
    sort?.field !== field ? { field, isDescending: false } : sort.isDescending ? null : { field, isDescending: true };
  return (
    <Box role="rowgroup" sx={{ position: 'sticky', top: 0, zIndex: 1, bgcolor: 'var(--sunk)', minWidth: least }}>
      <Box role="row" aria-rowindex={1} sx={{ display: 'grid', gridTemplateColumns: grid, height: 30, alignItems: 'center' }}>
        <div role="columnheader" className="soft key">
          Key
        </div>
        {page.fields.map((f) => {
          const isSorted = sort?.field === f.name;
          return (
            <div
              key={f.name}
              role="columnheader"
              className={NUMBERS.has(f.type) ? 'right' : ''}
              aria-sort={isSorted ? (sort.isDescending ? 'descending' : 'ascending') : 'none'}
            >
              <ButtonBase
                onClick={() => onSort(next(f.name))}
                title={`${f.name}, ${f.type}`}
                sx={{ font: 'inherit', fontSize: 12, fontWeight: 650, color: isSorted ? 'var(--ink)' : 'var(--soft)', maxWidth: '100%' }}
              >
                {f.name}
                {isSorted && <Icon path={sort.isDescending ? mdiArrowDown : mdiArrowUp} sx={{ fontSize: 14 }} aria-hidden />}
              </ButtonBase>
            </div>
          );
        })}
      </Box>
    </Box>
  );
}

const Value = ({ value, role }: { value: RowsPage['rows'][number]['values'][number]; role: 'cell' | 'gridcell' }) => (
  <div role={role} className={typeof value === 'number' ? 'mono right' : ''} title={value === null ? undefined : String(value)}>
    {value === null ? <span className="soft">empty</span> : typeof value === 'boolean' ? value ? 'yes' : 'no' : String(value)}
  </div>
);

const NUMBERS: ReadonlySet<string> = new Set(['integer', 'integer64', 'real']);

/** Said once for all rows, so that scrolling makes no styles. */
const CELLS = {
  '& .line': { position: 'absolute', left: 0, right: 0, display: 'grid', alignItems: 'center', borderBottom: '1px solid var(--rule)' },
  '& .line.chosen': { bgcolor: 'var(--ochre-wash)', boxShadow: 'inset 3px 0 0 var(--ochre)' },
  '&[role=grid] .line': { cursor: 'pointer' },
  '& .line > *, & [role=columnheader]': {
    px: 1,
    fontSize: 13,
    overflow: 'hidden',
    textOverflow: 'ellipsis',
    whiteSpace: 'nowrap',
  },
  '& .right': { textAlign: 'right' },
  '& .soft': { color: 'var(--soft)' },
  '& .key': { fontSize: 12, fontWeight: 650 },
} as const;
