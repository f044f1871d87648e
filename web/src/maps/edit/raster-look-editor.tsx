import { Box, Button, FormControlLabel, Switch, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import type { RasterLook } from '@rootmap/core';
import type { LayerPictureView } from '@rootmap/core/contract';
import { useState } from 'react';
import { ColourField } from './colour-field.js';
import { RampChoice } from './ramp-choice.js';
import { NumberField } from './number-field.js';
import { coloursOf, RAMPS } from './ramps.js';

interface Props {
  readonly look: RasterLook;
  readonly picture: LayerPictureView | null;
  readonly onChange: (look: RasterLook, what?: string) => void;
}
const STOPS = 6;

/** How the values of a raster become colours. */
export function RasterLookEditor({ look, picture, onChange }: Props) {
  const [ramp, setRamp] = useState(RAMPS[4]!);
  const found = picture?.stretch ?? null;
  if (picture && !found && look.ramp === null && look.stretch === null)
    return <Typography color="text.secondary">This raster has colours of its own; only its opacity and scale can be set.</Typography>;
  const from = look.ramp?.[0]?.value ?? look.stretch?.from ?? found?.from ?? 0;
  const to = look.ramp?.at(-1)?.value ?? look.stretch?.to ?? found?.to ?? 1;
  const ramped = (stops: readonly string[], a = from, b = to): RasterLook => ({
    ...look,
    stretch: null,
    ramp: coloursOf(stops, STOPS).map((colour, i) => ({
      colour,
      value: Number((a + (i / (STOPS - 1)) * (b - a)).toPrecision(8)),
      opacity: 1,
    })),
  });
  const setRange = (a: number, b: number): void => {
    if (look.ramp === null) return onChange({ ...look, stretch: { from: a, to: b } }, 'range');
    const scale = to === from ? 0 : (b - a) / (to - from);
    onChange({ ...look, ramp: look.ramp.map((s) => ({ ...s, value: Number((a + (s.value - from) * scale).toPrecision(8)) })) }, 'range');
  };
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
      <ToggleButtonGroup
        exclusive
        size="small"
        value={look.ramp ? 'ramp' : 'grey'}
        aria-label="Colours"
        onChange={(_, v: string | null) => v && onChange(v === 'grey' ? { ...look, ramp: null, stretch: null } : ramped(ramp.stops))}
      >
        <ToggleButton value="grey">Grey</ToggleButton>
        <ToggleButton value="ramp">Colour ramp</ToggleButton>
      </ToggleButtonGroup>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1, alignItems: 'center' }}>
        <NumberField label="From" value={from} onChange={(v) => v !== null && setRange(v, to)} />
        <NumberField label="To" value={to} onChange={(v) => v !== null && setRange(from, v)} />
        <NumberField
          label="Not drawn"
          empty="as the file says"
          width={130}
          value={look.nodata}
          onChange={(nodata) => onChange({ ...look, nodata })}
        />
        {found && (
          <Button
            size="small"
            onClick={() => (look.ramp ? onChange(ramped(ramp.stops, found.from, found.to)) : onChange({ ...look, stretch: null }))}
          >
            As the data has it
          </Button>
        )}
      </Box>
      {look.ramp && (
        <>
          <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
            <RampChoice value={ramp.name} onChange={(chosen) => (setRamp(chosen), onChange(ramped(chosen.stops)))} />
            <FormControlLabel
              control={
                <Switch size="small" checked={look.isStepped} onChange={(e) => onChange({ ...look, isStepped: e.target.checked })} />
              }
              label="In steps"
            />
          </Box>
          {look.ramp.map((s, i) => (
            <Box key={i} sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
              <ColourField
                label={`Stop ${i + 1}`}
                value={s.colour}
                onChange={(colour) => onChange({ ...look, ramp: look.ramp!.map((o, k) => (k === i ? { ...o, colour } : o)) }, `stop ${i}`)}
              />
              <NumberField
                label="Value"
                value={s.value}
                onChange={(v) => v !== null && onChange({ ...look, ramp: look.ramp!.map((o, k) => (k === i ? { ...o, value: v } : o)) })}
              />
              <NumberField
                label="Opacity %"
                value={Math.round(s.opacity * 100)}
                min={0}
                max={100}
                onChange={(v) => onChange({ ...look, ramp: look.ramp!.map((o, k) => (k === i ? { ...o, opacity: (v ?? 100) / 100 } : o)) })}
              />
            </Box>
          ))}
        </>
      )}
    </Box>
  );
}
