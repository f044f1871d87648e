import { Box } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, type KeyboardEvent } from 'react';
import type { MendLayerView } from '@rootmap/core/contract';
import { many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { STATE_WORD, Tether } from '../parts/tether.js';

/** Layers that are not sound, by the folder they were recorded in, worst first. */
function groupByFolder(layers: readonly MendLayerView[]): { folder: string; state: string; layers: MendLayerView[] }[] {
  const groups = new Map<string, { folder: string; state: string; layers: MendLayerView[] }>();
  for (const l of layers) {
    const folder = l.recordedFolder ?? 'no source recorded';
    const key = `${folder}\n${l.before.state}`;
    const group = groups.get(key) ?? { folder, state: STATE_WORD[l.before.state], layers: [] };
    group.layers.push(l);
    groups.set(key, group);
  }
  return [...groups.values()].sort((a, b) => b.layers.length - a.layers.length);
}

type Row =
  | { readonly kind: 'folder'; readonly group: ReturnType<typeof groupByFolder>[number] }
  | { readonly kind: 'layer'; readonly layer: MendLayerView };
const FOLDER_HEIGHT = 34;
const LAYER_HEIGHT = 32;

interface Props {
  readonly layers: readonly MendLayerView[];
  readonly selected: MendLayerView;
  readonly onSelect: (key: string) => void;
}

/** Only the rows in sight are drawn; the list scrolls with the column around it. */
export function WrongColumn({ layers, selected, onSelect }: Props) {
  const list = useRef<HTMLDivElement>(null);
  const rows = useMemo(
    () =>
      groupByFolder(layers).flatMap((group): Row[] => [
        { kind: 'folder', group },
        ...group.layers.map((layer): Row => ({ kind: 'layer', layer })),
      ]),
    [layers],
  );
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => list.current?.closest<HTMLElement>('[role=region]') ?? null,
    estimateSize: (i) => (rows[i]!.kind === 'folder' ? FOLDER_HEIGHT : LAYER_HEIGHT),
    scrollMargin: list.current?.offsetTop ?? 0,
    overscan: 20,
  });
  const at = rows.findIndex((r) => r.kind === 'layer' && r.layer.key === selected.key);
  useEffect(() => virtual.scrollToIndex(at), [virtual, at]);
  const move = (event: KeyboardEvent): void => {
    if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
    event.preventDefault();
    const step = event.key === 'ArrowDown' ? 1 : -1;
    let i = at + step;
    while (rows[i]?.kind === 'folder') i += step;
    const next = rows[i];
    if (next?.kind !== 'layer') return;
    virtual.scrollToIndex(i);
    onSelect(next.layer.key);
    requestAnimationFrame(() => document.getElementById(rowId(next.layer))?.focus());
  };
  return (
    <Box ref={list} onKeyDown={move} sx={{ position: 'relative', height: virtual.getTotalSize() }}>
      {virtual.getVirtualItems().map(({ index, start }) => {
        const row = rows[index]!;
        return (
          <Box
            key={row.kind === 'folder' ? `${row.group.folder} ${row.group.state}` : row.layer.key}
            sx={{ position: 'absolute', left: 0, right: 0, top: 0 }}
            style={{ transform: `translateY(${start - virtual.options.scrollMargin}px)` }}
          >
            {row.kind === 'folder' ? (
              <FolderRow group={row.group} />
            ) : (
              <LayerRow
                layer={row.layer}
                chosen={row.layer.key === selected.key}
                together={row.layer.shift !== null && row.layer.shift === selected.shift}
                onSelect={onSelect}
              />
            )}
          </Box>
        );
      })}
    </Box>
  );
}

const FolderRow = ({ group: g }: { group: ReturnType<typeof groupByFolder>[number] }) => (
  <Box
    component="h3"
    sx={{
      m: 0,
      px: 1.75,
      height: FOLDER_HEIGHT,
      fontSize: 12.5,
      fontWeight: 400,
      display: 'flex',
      gap: 1,
      alignItems: 'flex-end',
      pb: 0.5,
      boxSizing: 'border-box',
    }}
  >
    <PathText path={g.folder} most={34} />
    <Box component="span" sx={{ color: 'text.secondary' }}>
      {many(g.layers.length, 'layer')}, {g.state}
    </Box>
  </Box>
);

const rowId = (l: MendLayerView): string => `layer-${l.key.replace(/\s/g, '_')}`;

function LayerRow({
  layer: l,
  chosen,
  together,
  onSelect,
}: {
  layer: MendLayerView;
  chosen: boolean;
  together: boolean;
  onSelect: (key: string) => void;
}) {
  return (
    <Box
      component="button"
      id={rowId(l)}
      onClick={() => onSelect(l.key)}
      aria-pressed={chosen}
      tabIndex={chosen ? 0 : -1}
      sx={{
        display: 'grid',
        gridTemplateColumns: '44px minmax(0,1fr) minmax(0,0.8fr)',
        gap: 1,
        alignItems: 'center',
        width: '100%',
        height: LAYER_HEIGHT,
        px: 1.75,
        border: 0,
        borderLeft: `3px solid ${chosen ? 'var(--spruce)' : 'transparent'}`,
        font: 'inherit',
        fontSize: 13.5,
        textAlign: 'left',
        cursor: 'pointer',
        color: 'var(--ink)',
        bgcolor: chosen || together ? 'var(--spruce-wash)' : 'transparent',
        '&:hover': { bgcolor: 'var(--sunk)' },
      }}
    >
      <Tether bond={{ stored: l.stored, reach: l.reach, state: l.before.state }} />
      <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
        {l.title || 'untitled layer'}
      </Box>
      <Box
        component="span"
        sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap', color: 'text.secondary', fontSize: 12.5 }}
      >
        {l.mapTitle}
      </Box>
    </Box>
  );
}
