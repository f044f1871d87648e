import { Box, MenuItem, TextField } from '@mui/material';
import { MARKS, type LayerSymbol, type Mark, type ShapeKind } from '@rootmap/core';
import { ColourField } from './colour-field.js';
import { NumberField } from './number-field.js';

const MARK_WORDS: Readonly<Record<Mark, string>> = {
  circle: 'circle',
  square: 'square',
  triangle: 'triangle',
  star: 'star',
  cross: 'plus',
  x: 'cross',
};
const DASHES = { whole: null, dashes: [6, 4], dots: [1, 4], 'dash and dot': [8, 4, 1, 4] } as const;

interface Props {
  readonly symbol: LayerSymbol;
  readonly kind: ShapeKind;
  readonly onChange: (symbol: LayerSymbol) => void;
}

/** What a symbol has, for the kind of shape that it draws. */
export function SymbolEditor({ symbol: s, kind, onChange }: Props) {
  const set = (more: Partial<LayerSymbol>): void => onChange({ ...s, ...more });
  const dash = Object.entries(DASHES).find(([, d]) => JSON.stringify(d) === JSON.stringify(s.dash))?.[0] ?? 'whole';
  return (
    <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1.25, alignItems: 'center' }}>
      {kind !== 'line' && <ColourField label="Fill" value={s.fill} onChange={(fill) => set({ fill })} onNone={() => set({ fill: null })} />}
      {kind !== 'line' && (
        <NumberField
          label="Fill opacity %"
          value={Math.round(s.fillOpacity * 100)}
          min={0}
          max={100}
          onChange={(v) => set({ fillOpacity: (v ?? 100) / 100 })}
        />
      )}
      <ColourField
        label={kind === 'line' ? 'Line' : 'Outline'}
        value={s.stroke}
        onChange={(stroke) => set({ stroke })}
        {...(kind === 'line' ? {} : { onNone: () => set({ stroke: null }) })}
      />
      <NumberField label="Width px" value={s.strokeWidth} min={0} max={40} onChange={(v) => set({ strokeWidth: v ?? 1 })} />
      {kind !== 'point' && (
        <TextField
          select
          size="small"
          label="Line kind"
          value={dash}
          onChange={(e) => set({ dash: DASHES[e.target.value as keyof typeof DASHES] })}
          sx={{ width: 130 }}
        >
          {Object.keys(DASHES).map((name) => (
            <MenuItem key={name} value={name}>
              {name}
            </MenuItem>
          ))}
        </TextField>
      )}
      {(kind === 'point' || kind === 'mixed') && (
        <>
          <TextField
            select
            size="small"
            label="Mark"
            value={s.mark}
            onChange={(e) => set({ mark: e.target.value as Mark })}
            sx={{ width: 110 }}
          >
            {MARKS.map((mark) => (
              <MenuItem key={mark} value={mark}>
                {MARK_WORDS[mark]}
              </MenuItem>
            ))}
          </TextField>
          <NumberField label="Size px" value={s.size} min={1} max={100} onChange={(v) => set({ size: v ?? 8 })} />
        </>
      )}
    </Box>
  );
}
