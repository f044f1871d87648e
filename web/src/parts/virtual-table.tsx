import { Box } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, type ReactNode } from 'react';

interface Props<T> {
  readonly label: string;
  readonly items: readonly T[];
  readonly keyOf: (item: T) => string;
  readonly rowHeight: number;
  /** CSS grid columns. */
  readonly columns: string;
  /** The cells of a row, each with the role `cell`. */
  readonly cells: (item: T) => ReactNode;
  readonly sx?: object;
}

/** A table of which only the rows in sight are drawn. */
export function VirtualTable<T>({ label, items, keyOf, rowHeight, columns, cells, sx = {} }: Props<T>) {
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({ count: items.length, getScrollElement: () => box.current, estimateSize: () => rowHeight, overscan: 10 });
  return (
    <Box
      ref={box}
      role="table"
      aria-label={label}
      aria-rowcount={items.length}
      tabIndex={0}
      sx={{ flex: 1, overflow: 'auto', outlineOffset: '-2px', ...sx }}
    >
      <Box role="rowgroup" sx={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((row) => {
          const item = items[row.index]!;
          return (
            <Box
              key={keyOf(item)}
              role="row"
              aria-rowindex={row.index + 1}
              sx={{
                position: 'absolute',
                top: row.start,
                left: 0,
                right: 0,
                height: rowHeight,
                display: 'grid',
                gridTemplateColumns: columns,
                alignItems: 'center',
                gap: 1,
                px: 1,
                fontSize: 13,
                borderBottom: '1px solid var(--rule)',
              }}
            >
              {cells(item)}
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}
