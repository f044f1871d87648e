import { Box } from '@mui/material';
import type { KeyboardEvent } from 'react';
import type { MendLayerView } from '@rootmap/core/contract';
import { PathText } from '../parts/path-text.js';
import { STATE_WORD, Tether } from '../parts/tether.js';

/** Layers that are not sound, by the folder they were recorded in, worst first. */
export function groupByFolder(layers: readonly MendLayerView[]): { folder: string; state: string; layers: MendLayerView[] }[] {
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

export function WrongColumn({
  layers,
  selected,
  onSelect,
}: {
  layers: readonly MendLayerView[];
  selected: MendLayerView;
  onSelect: (key: string) => void;
}) {
  const groups = groupByFolder(layers);
  const order = groups.flatMap((g) => g.layers);
  const move = (event: KeyboardEvent): void => {
    if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
    event.preventDefault();
    const next = order[order.findIndex((l) => l.key === selected.key) + (event.key === 'ArrowDown' ? 1 : -1)];
    if (!next) return;
    onSelect(next.key);
    document.getElementById(rowId(next))?.focus();
  };
  return (
    <Box onKeyDown={move}>
      {groups.map((g) => (
        <Box key={`${g.folder} ${g.state}`} component="section" aria-label={`${g.folder}, ${g.state}`} sx={{ mb: 1.5 }}>
          <Box sx={{ px: 1.75, py: 0.5, fontSize: 12.5, display: 'flex', gap: 1 }}>
            <PathText path={g.folder} most={34} />
            <Box component="span" sx={{ color: 'text.secondary' }}>
              {g.layers.length === 1 ? '1 layer' : `${g.layers.length} layers`}, {g.state}
            </Box>
          </Box>
          {g.layers.map((l) => (
            <LayerRow
              key={l.key}
              layer={l}
              chosen={l.key === selected.key}
              together={l.shift !== null && l.shift === selected.shift}
              onSelect={onSelect}
            />
          ))}
        </Box>
      ))}
    </Box>
  );
}

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
        height: 32,
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
