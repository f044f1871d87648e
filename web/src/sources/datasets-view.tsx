import { mdiArrowDown, mdiArrowUp } from '@mdi/js';
import { Box, Button, ButtonBase, Stack, TextField, Typography } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useDeferredValue, useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import type { ProjectView, SourcesView } from '@rootmap/core/contract';
import { sideBySide, tableRoom } from '../parts/side-by-side.js';
import { copyText } from '../parts/copy-text.js';
import { many, number } from '../parts/format.js';
import { THUMBNAILS } from '../pictures/thumbnail.js';
import { Icon } from '../parts/icon.js';
import { EmptyState, Sheet } from '../parts/states.js';
import { useStable } from '../parts/use-stable.js';
import { useToggled } from '../parts/use-toggled.js';
import { CopiesDialog } from './copies-dialog.js';
import { DatasetDetails } from './dataset-details.js';
import { MapDialog } from './map-dialog.js';
import { ColumnMenu, useColumns } from './column-menu.js';
import { COLUMNS, type ColumnShape } from './dataset-columns.js';
import { DatasetFilters, narrowed } from './dataset-filters.js';
import { findRows, rowsOf, sortRows, type DatasetRow, type Order } from './dataset-rows.js';
import { useUrlState } from '../parts/use-url-state.js';

const ROW = 36;
const TICK = '18px';
const gridOf = (columns: readonly ColumnShape[]): string => [TICK, ...columns.map((c) => c.width)].join(' ');

/** Every dataset of the project and its links: found by any word of its name, fields or origin, sorted by any column. */
export function DatasetsView({ project, sources }: { project: ProjectView; sources: SourcesView | undefined }) {
  const [search, set] = useUrlState();
  const [order, setOrder] = useState<Order>({ column: 'name', isDescending: false });
  const asked = useDeferredValue(search); // letters are not kept waiting by ten thousand rows
  const all = useMemo(() => rowsOf(project.datasets, sources?.sources ?? []), [project.datasets, sources]);
  useEffect(() => void import('../pictures/preview-map.js'), []); // so that the first map is not waited for
  const [shown, setShown] = useColumns();
  const columns = useMemo(() => COLUMNS.filter((c) => shown.includes(c.column)), [shown]);
  const rows = useMemo(() => sortRows(narrowed(findRows(all, asked.get('find') ?? ''), asked), order), [all, asked, order]);
  const chosen = rows.find((r) => r.dataset.id === search.get('dataset')) ?? null;
  const [ticked, flip] = useToggled();
  const tick = useStable(flip);
  const chosenIds = useMemo(() => all.filter((r) => ticked.has(r.dataset.id)).map((r) => r.dataset.id), [all, ticked]);
  const choose = useStable((id: string) => set({ dataset: id }));
  return (
    <Box sx={{ ...sideBySide('minmax(0, 1fr) 320px'), gap: 1.5 }}>
      <Sheet sx={{ display: 'flex', flexDirection: 'column', minHeight: 0 }}>
        <Box sx={{ display: 'flex', flexWrap: { xs: 'wrap', md: 'nowrap' }, alignItems: 'center', gap: 1.5, px: 1.5, py: 1 }}>
          <TextField
            placeholder="Find by name, field, origin, CRS…"
            value={search.get('find') ?? ''}
            onChange={(e) => set({ find: e.target.value })}
            slotProps={{ htmlInput: { 'aria-label': 'Find datasets' } }}
            sx={{ width: 230, '& .MuiInputBase-root': { height: 34 } }}
          />
          <DatasetFilters rows={all} />
          <Typography variant="body2" color="text.secondary" role="status">
            {rows.length === all.length ? many(all.length, 'dataset') : `${number(rows.length)} of ${many(all.length, 'dataset')}`}
          </Typography>
          <Box sx={{ flex: 1 }} />
          <ColumnMenu shown={shown} onChange={setShown} />
          <Attribution text={sources?.attribution ?? ''} />
        </Box>
        {all.length === 0 ? (
          <EmptyState title="No data yet">Bring an archive in, or link a folder that holds data for many projects.</EmptyState>
        ) : (
          <Box sx={{ ...tableRoom(820), display: 'flex', flexDirection: 'column', flex: 1, minHeight: 0 }}>
            <Rows
              projectKey={project.key}
              columns={columns}
              rows={rows}
              order={order}
              onOrder={setOrder}
              chosen={chosen}
              onChoose={choose}
              ticked={ticked}
              onTick={tick}
            />
          </Box>
        )}
        {chosenIds.length > 0 && <Ticked project={project} ids={chosenIds} onClear={() => chosenIds.forEach(flip)} />}
      </Sheet>
      <DatasetDetails project={project} sources={sources} row={chosen} />
    </Box>
  );
}

interface TickedProps {
  readonly project: ProjectView;
  readonly ids: readonly string[];
  readonly onClear: () => void;
}

/** What can be done with all that is ticked. */
function Ticked({ project, ids, onClear }: TickedProps) {
  const [open, setOpen] = useState<'map' | 'copies' | null>(null);
  const names = ids.map((id) => id.slice(id.lastIndexOf('/') + 1));
  const close = (): void => setOpen(null);
  return (
    <Stack
      direction="row"
      role="toolbar"
      aria-label="What is ticked"
      sx={{ gap: 1, px: 1.5, py: 1, alignItems: 'center', borderTop: '1px solid var(--rule)', bgcolor: 'var(--sunk)' }}
    >
      <Typography variant="body2" sx={{ flex: 1 }}>
        {many(ids.length, 'dataset')} ticked
      </Typography>
      <Button variant="contained" onClick={() => setOpen('map')} disabled={project.id === null}>
        Bring into map
      </Button>
      <Button variant="outlined" onClick={() => setOpen('copies')} disabled={project.id === null}>
        Copies in a CRS
      </Button>
      <Button onClick={onClear}>Untick</Button>
      {open === 'map' && <MapDialog project={project} ids={ids} names={names} onClose={close} />}
      {open === 'copies' && <CopiesDialog project={project} ids={ids} onClose={close} />}
    </Stack>
  );
}

/** The line that a map's margin has to carry, ready to be copied. */
function Attribution({ text }: { text: string }) {
  if (text === '') return null;
  return (
    <>
      <Typography
        variant="body2"
        aria-label="Attribution"
        sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap', maxWidth: 300 }}
        title={text}
      >
        {text}
      </Typography>
      <Button onClick={() => void copyText(text, 'The attribution is on the clipboard.')}>Copy attribution</Button>
    </>
  );
}

interface RowsProps {
  readonly projectKey: string;
  readonly columns: readonly ColumnShape[];
  readonly rows: readonly DatasetRow[];
  readonly order: Order;
  readonly onOrder: (order: Order) => void;
  readonly chosen: DatasetRow | null;
  readonly onChoose: (id: string) => void;
  readonly ticked: ReadonlySet<string>;
  readonly onTick: (id: string) => void;
}

function Rows({ projectKey, columns, rows, order, onOrder, chosen, onChoose, ticked, onTick }: RowsProps) {
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => box.current, estimateSize: () => ROW, overscan: 12 });
  const at = chosen ? rows.indexOf(chosen) : -1;
  const onKey = (e: KeyboardEvent): void => {
    if (e.key === ' ' && chosen) {
      e.preventDefault();
      return onTick(chosen.dataset.id);
    }
    const to = { ArrowDown: at + 1, ArrowUp: at - 1, Home: 0, End: rows.length - 1, PageDown: at + 15, PageUp: at - 15 }[e.key];
    if (to === undefined || rows.length === 0) return;
    e.preventDefault();
    const index = Math.max(0, Math.min(rows.length - 1, to));
    onChoose(rows[index]!.dataset.id);
    virtual.scrollToIndex(index);
  };
  return (
    <Box
      role="grid"
      aria-label="Datasets"
      aria-rowcount={rows.length + 1}
      sx={{ display: 'flex', flexDirection: 'column', minHeight: 0, flex: 1 }}
    >
      <Heads columns={columns} order={order} onOrder={onOrder} />
      <Box
        ref={box}
        role="rowgroup"
        tabIndex={0}
        aria-label="Rows"
        onKeyDown={onKey}
        sx={{ flex: 1, overflow: 'auto', outlineOffset: '-2px', ...ROWS }}
      >
        <Box role="presentation" sx={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => (
            <Row
              key={item.key}
              projectKey={projectKey}
              columns={columns}
              row={rows[item.index]!}
              index={item.index}
              top={item.start}
              isChosen={item.index === at}
              isTicked={ticked.has(rows[item.index]!.dataset.id)}
              onTick={onTick}
              onChoose={onChoose}
            />
          ))}
        </Box>
      </Box>
    </Box>
  );
}

const Heads = ({ columns, order, onOrder }: Pick<RowsProps, 'columns' | 'order' | 'onOrder'>) => (
  <Box
    role="row"
    sx={{
      display: 'grid',
      gridTemplateColumns: gridOf(columns),
      gap: 1,
      px: 1.5,
      height: 30,
      alignItems: 'center',
      borderBottom: '1px solid var(--rule)',
    }}
  >
    <Box role="columnheader" aria-label="Ticked" />
    {columns.map((c) => {
      const isOrder = order.column === c.column;
      return (
        <Box
          key={c.column}
          role="columnheader"
          aria-sort={isOrder ? (order.isDescending ? 'descending' : 'ascending') : 'none'}
          sx={{ textAlign: c.isRight ? 'right' : 'left' }}
        >
          <ButtonBase
            onClick={() => onOrder({ column: c.column, isDescending: isOrder && !order.isDescending })}
            sx={{ font: 'inherit', fontSize: 12, fontWeight: 650, color: isOrder ? 'var(--ink)' : 'var(--soft)' }}
          >
            {c.label}
            {isOrder && <Icon path={order.isDescending ? mdiArrowDown : mdiArrowUp} sx={{ fontSize: 14 }} aria-hidden />}
          </ButtonBase>
        </Box>
      );
    })}
  </Box>
);

const Row = memo(function Row({
  projectKey,
  columns,
  row,
  index,
  top,
  isChosen,
  isTicked,
  onChoose,
  onTick,
}: {
  projectKey: string;
  columns: readonly ColumnShape[];
  row: DatasetRow;
  index: number;
  top: number;
  isChosen: boolean;
  isTicked: boolean;
  onChoose: (id: string) => void;
  onTick: (id: string) => void;
}) {
  const { dataset: d } = row;
  return (
    <div
      role="row"
      className={isChosen ? 'row chosen' : 'row'}
      aria-rowindex={index + 2}
      aria-selected={isChosen}
      onClick={() => onChoose(d.id)}
      style={{ top, gridTemplateColumns: gridOf(columns) }}
    >
      <div role="gridcell">
        <input
          type="checkbox"
          tabIndex={-1}
          aria-label={`Tick ${d.name}`}
          checked={isTicked}
          onChange={() => onTick(d.id)}
          onClick={(e) => e.stopPropagation()}
        />
      </div>
      {columns.map((c) => (
        <div key={c.column} role="gridcell" className={`cell${c.isMono ? ' mono' : ''}${c.isRight ? ' right' : ''}`}>
          {c.cell(row, projectKey)}
        </div>
      ))}
    </div>
  );
});

/** Said once for all rows: a style for each cell of each row would cost a frame while it scrolls. */
const ROWS = {
  '& .row': {
    position: 'absolute',
    left: 0,
    right: 0,
    height: ROW,
    px: 1.5,
    display: 'grid',
    gap: 1,
    alignItems: 'center',
    fontSize: 13,
    cursor: 'default',
    '&.chosen': { bgcolor: 'var(--spruce-wash)' },
    '&:hover:not(.chosen)': { bgcolor: 'var(--sunk)' },
  },
  '& .cell': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
  '& .right': { textAlign: 'right' },
  '& input[type=checkbox]': { accentColor: 'var(--spruce)', m: 0, width: 15, height: 15, verticalAlign: 'middle' },
  ...THUMBNAILS,
} as const;
