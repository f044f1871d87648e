import { mdiArrowDown, mdiArrowUp } from '@mdi/js';
import { Box, Button, ButtonBase, Chip, Dialog, DialogActions, DialogContent, DialogTitle, TextField, Typography } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, useState } from 'react';
import type { RowCondition, RowsPage, RowsRequest } from '@rootmap/core/contract';
import { useSettled } from '../folders/use-edit.js';
import { many, number } from '../parts/format.js';
import { Icon } from '../parts/icon.js';
import { ErrorState, Waiting } from '../parts/states.js';
import { ConditionForm } from './condition-form.js';
import { useRows } from './use-rows.js';

const ROW = 28;
const KEY_WIDTH = 72;
const COLUMN_WIDTH = 150;

interface Props {
  readonly projectKey: string;
  /** Id of the dataset. */
  readonly dataset: string;
  readonly onClose: () => void;
}

/** The records of a dataset with their values: found, narrowed and sorted on the server, so that a million is no more than ten. */
export function RowsDialog({ projectKey, dataset, onClose }: Props) {
  const [words, setWords] = useState('');
  const [where, setWhere] = useState<readonly RowCondition[]>([]);
  const [sort, setSort] = useState<RowsRequest['sort']>(null);
  const find = useSettled(words);
  const [sight, setSight] = useState<InSight>(FIRST_SIGHT);
  const asked = { dataset, sort, find, where };
  const { head, rowAt } = useRows(projectKey, asked, sight.first, sight.last);
  const page = head.data;
  return (
    <Dialog
      open
      onClose={onClose}
      maxWidth={false}
      fullWidth
      aria-labelledby="rows-title"
      slotProps={{ paper: { sx: { height: '92vh', maxWidth: 1400 } } }}
    >
      <DialogTitle id="rows-title" variant="h2">
        Rows of <span className="mono">{dataset.slice(dataset.lastIndexOf('/') + 1)}</span>
      </DialogTitle>
      <DialogContent sx={{ display: 'flex', flexDirection: 'column', gap: 1, overflow: 'hidden', pb: 1 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, flexWrap: 'wrap', pt: 1 }}>
          <TextField
            placeholder="Find in any field…"
            value={words}
            onChange={(e) => setWords(e.target.value)}
            slotProps={{ htmlInput: { 'aria-label': 'Find in any field' } }}
            sx={{ width: 220 }}
          />
          {page && <ConditionForm fields={page.fields} onAdd={(c) => setWhere((before) => [...before, c])} />}
          <Typography variant="body2" color="text.secondary" role="status">
            {page ? (page.found === page.all ? many(page.all, 'record') : `${number(page.found)} of ${many(page.all, 'record')}`) : ''}
          </Typography>
        </Box>
        <Conditions where={where} onChange={setWhere} />
        {head.isError ? (
          <ErrorState error={head.error} />
        ) : !page ? (
          <Waiting what="Reading the records…" />
        ) : (
          <Records page={page} rowAt={rowAt} sort={sort} onSort={setSort} onSight={setSight} />
        )}
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

/** Records that are on the screen, by their place among those that were found. */
interface InSight {
  readonly first: number;
  readonly last: number;
}
const FIRST_SIGHT: InSight = { first: 0, last: 40 };

interface RecordsProps {
  readonly page: RowsPage;
  readonly rowAt: ReturnType<typeof useRows>['rowAt'];
  readonly sort: RowsRequest['sort'];
  readonly onSort: (sort: RowsRequest['sort']) => void;
  readonly onSight: (sight: (before: InSight) => InSight) => void;
}

/** Only rows in sight are there. */
function Records({ page, rowAt, sort, onSort, onSight }: RecordsProps) {
  const box = useRef<HTMLDivElement>(null);
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
  const least = KEY_WIDTH + page.fields.length * COLUMN_WIDTH;
  const grid = `${KEY_WIDTH}px repeat(${page.fields.length}, minmax(${COLUMN_WIDTH}px, 1fr))`;
  return (
    <Box
      ref={box}
      role="table"
      aria-label="Records"
      aria-rowcount={page.found + 1}
      aria-colcount={page.fields.length + 1}
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
              className="line"
              style={{ top: item.start, height: ROW, gridTemplateColumns: grid }}
            >
              <div role="rowheader" className="mono soft">
                {row ? row.key : '…'}
              </div>
              {page.fields.map((f, i) => (
                <Value key={f.name} value={row?.values[i] ?? null} />
              ))}
            </div>
          );
        })}
      </Box>
      {page.found === 0 && <Typography sx={{ p: 2 }}>No record is like that. Take a condition away, or look for other words.</Typography>}
    </Box>
  );
}

const Conditions = ({ where, onChange }: { where: readonly RowCondition[]; onChange: (where: readonly RowCondition[]) => void }) =>
  where.length === 0 ? null : (
    <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }} role="group" aria-label="Conditions">
      {where.map((c, i) => (
        <Chip
          key={`${c.field} ${c.test} ${c.value}`}
          size="small"
          label={`${c.field} ${c.test === 'empty' || c.test === 'filled' ? `is ${c.test}` : `${c.test} ${c.value}`}`}
          onDelete={() => onChange(where.filter((_, k) => k !== i))}
        />
      ))}
    </Box>
  );

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

const Value = ({ value }: { value: RowsPage['rows'][number]['values'][number] }) => (
  <div role="cell" className={typeof value === 'number' ? 'mono right' : ''} title={value === null ? undefined : String(value)}>
    {value === null ? <span className="soft">empty</span> : typeof value === 'boolean' ? value ? 'yes' : 'no' : String(value)}
  </div>
);

const NUMBERS: ReadonlySet<string> = new Set(['integer', 'integer64', 'real']);

/** Said once for all rows, so that scrolling makes no styles. */
const CELLS = {
  '& .line': { position: 'absolute', left: 0, right: 0, display: 'grid', alignItems: 'center', borderBottom: '1px solid var(--rule)' },
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
