import { Box, Button, FormControlLabel, MenuItem, Switch, TextField, ToggleButton, ToggleButtonGroup } from '@mui/material';
import { isAsItIs, PLAIN_RASTER, RESAMPLINGS, sameJson, type RasterLook, type Resampling } from '@rootmap/core';
import type { LayerPictureView } from '@rootmap/core/contract';
import { useState, type ReactNode } from 'react';
import { ColourField } from './colour-field.js';
import { RampChoice } from './ramp-choice.js';
import { BandField, ThreeBandsField } from '../../parts/band-field.js';
import { NumberField } from './number-field.js';
import { coloursOf, RAMPS, SEA_AND_LAND, seaAndLand } from './ramps.js';

interface Props {
  readonly look: RasterLook;
  readonly picture: LayerPictureView | null;
  readonly onChange: (look: RasterLook, what?: string) => void;
}
type Mode = 'own' | 'grey' | 'ramp' | 'bands';
const MODES: Readonly<Record<Mode, string>> = { own: 'Its own colours', grey: 'Grey', ramp: 'Colour ramp', bands: 'Three bands' };
const STOPS = 6;
const SMOOTHING: Readonly<Record<Resampling, string>> = { nearest: 'nearest pixel', bilinear: 'bilinear', cubic: 'cubic' };

/** How the values of a raster become colours. */
export function RasterLookEditor({ look, picture, onChange }: Props) {
  const [ramp, setRamp] = useState(RAMPS[4]!);
  const found = picture?.stretch ?? null;
  const { bands = 1, hasColours = false } = picture ?? {};
  const mode: Mode = look.bands ? 'bands' : look.ramp ? 'ramp' : hasColours && isAsItIs(look) ? 'own' : 'grey';
  const from = look.ramp?.[0]?.value ?? look.stretch?.from ?? found?.from ?? 0;
  const to = look.ramp?.at(-1)?.value ?? look.stretch?.to ?? found?.to ?? 1;
  const ramped = (stops: readonly string[], a = from, b = to): RasterLook => ({
    ...look,
    bands: null,
    stretch: null,
    ramp: coloursOf(stops, STOPS).map((colour, i) => ({
      colour,
      value: Number((a + (i / (STOPS - 1)) * (b - a)).toPrecision(8)),
      opacity: 1,
    })),
  });
  const shore = seaAndLand(from, to);
  const isShore = shore !== null && sameJson(shore.map((s) => s.colour), look.ramp?.map((s) => s.colour)); // prettier-ignore
  const setRange = (a: number, b: number): void => {
    if (look.ramp === null) return onChange({ ...look, stretch: { from: a, to: b } }, 'range');
    const scale = to === from ? 0 : (b - a) / (to - from);
    onChange({ ...look, ramp: look.ramp.map((s) => ({ ...s, value: Number((a + (s.value - from) * scale).toPrecision(8)) })) }, 'range');
  };
  // Grey without a range, of a raster with colours, would be those colours.
  const grey = (band: number): RasterLook => ({ ...look, band, bands: null, ramp: null, stretch: hasColours ? { from, to } : null });
  const choose = (next: Mode): void => {
    if (next === 'own') onChange({ ...PLAIN_RASTER, nodata: look.nodata, resampling: look.resampling });
    else if (next === 'grey') onChange(grey(look.band));
    else if (next === 'ramp') onChange(shore ? { ...look, bands: null, stretch: null, ramp: shore } : ramped(ramp.stops));
    else onChange({ ...look, band: 1, bands: [1, 2, 3], ramp: null, stretch: null });
  };
  const asTheDataHas = (range: { readonly from: number; readonly to: number }): RasterLook =>
    look.ramp ? ramped(ramp.stops, range.from, range.to) : { ...look, stretch: hasColours && !look.bands ? range : null };
  const offered: Mode[] = [...(hasColours ? (['own'] as const) : []), 'grey', 'ramp', ...(bands >= 3 ? (['bands'] as const) : [])];
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
      {(bands > 0 || !picture) && <ModeChoice value={mode} offered={offered} onChoose={choose} />}
      {look.bands && <ThreeBandsField value={look.bands} bands={bands} onChange={(three) => onChange({ ...look, bands: three })} />}
      {mode !== 'own' && !look.bands && bands > 1 && (
        <BandField label="Band" value={look.band} bands={bands} onChange={(n) => onChange(look.ramp ? { ...look, band: n } : grey(n))} />
      )}
      {mode !== 'own' && (
        <RangeFields
          look={look}
          from={from}
          to={to}
          onRange={setRange}
          onEachOwn={() => onChange({ ...look, stretch: null })}
          onNodata={(nodata) => onChange({ ...look, nodata })}
        >
          {found && (
            <Button size="small" onClick={() => onChange(asTheDataHas(found))}>
              {look.bands ? 'Each as its band has it' : 'As the data has it'}
            </Button>
          )}
        </RangeFields>
      )}
      <BetweenPixels value={look.resampling} onChange={(resampling) => onChange({ ...look, resampling })} />
      {look.ramp && (
        <>
          <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
            <RampChoice
              value={isShore ? SEA_AND_LAND.name : ramp.name}
              onChange={(chosen) => (setRamp(chosen), onChange(ramped(chosen.stops)))}
              onSeaAndLand={shore ? () => onChange({ ...look, bands: null, stretch: null, ramp: shore }) : undefined}
            />
            <InSteps isOn={look.isStepped} onChange={(isStepped) => onChange({ ...look, isStepped })} />
          </Box>
          <RampStops ramp={look.ramp} onChange={(next, step) => onChange({ ...look, ramp: next }, step)} />
        </>
      )}
    </Box>
  );
}

const InSteps = ({ isOn, onChange }: { isOn: boolean; onChange: (isOn: boolean) => void }) => (
  <FormControlLabel control={<Switch size="small" checked={isOn} onChange={(e) => onChange(e.target.checked)} />} label="In steps" />
);

const ModeChoice = ({ value, offered, onChoose }: { value: Mode; offered: readonly Mode[]; onChoose: (mode: Mode) => void }) => (
  <ToggleButtonGroup exclusive size="small" value={value} aria-label="Colours" onChange={(_, v: Mode | null) => v && onChoose(v)}>
    {offered.map((m) => (
      <ToggleButton key={m} value={m}>
        {MODES[m]}
      </ToggleButton>
    ))}
  </ToggleButtonGroup>
);

interface RangeFieldsProps {
  readonly look: RasterLook;
  readonly from: number;
  readonly to: number;
  readonly onRange: (from: number, to: number) => void;
  readonly onEachOwn: () => void;
  readonly onNodata: (nodata: number | null) => void;
  readonly children: ReactNode;
}

/** Between which values colours lie, and which one is not drawn. */
function RangeFields({ look, from, to, onRange, onEachOwn, onNodata, children }: RangeFieldsProps) {
  const eachOwn = look.bands !== null && look.stretch === null;
  const ownRanges = look.bands ? { empty: 'each its own', width: 110 } : {};
  /** An end that is emptied, where bands are put together, gives each band its own range again. */
  const setEnd = (typed: number | null, a: number, b: number): void => {
    if (typed !== null) onRange(a, b);
    else if (look.bands && !eachOwn) onEachOwn();
  };
  return (
    <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1, alignItems: 'center' }}>
      <NumberField label="From" {...ownRanges} value={eachOwn ? null : from} onChange={(v) => setEnd(v, v ?? from, to)} />
      <NumberField label="To" {...ownRanges} value={eachOwn ? null : to} onChange={(v) => setEnd(v, from, v ?? to)} />
      <NumberField label="Not drawn" empty="as the file says" width={130} value={look.nodata} onChange={onNodata} />
      {children}
    </Box>
  );
}

interface RampStopsProps {
  readonly ramp: NonNullable<RasterLook['ramp']>;
  readonly onChange: (ramp: NonNullable<RasterLook['ramp']>, step?: string) => void;
}

/** Colour, value and opacity of each stop of a ramp. */
function RampStops({ ramp, onChange }: RampStopsProps) {
  const withStop = (i: number, change: Partial<(typeof ramp)[number]>): typeof ramp =>
    ramp.map((o, k) => (k === i ? { ...o, ...change } : o));
  return ramp.map((s, i) => (
    <Box key={i} sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
      <ColourField label={`Stop ${i + 1}`} value={s.colour} onChange={(colour) => onChange(withStop(i, { colour }), `stop ${i}`)} />
      <NumberField label="Value" value={s.value} onChange={(value) => value !== null && onChange(withStop(i, { value }))} />
      <NumberField
        label="Opacity %"
        value={Math.round(s.opacity * 100)}
        min={0}
        max={100}
        onChange={(v) => onChange(withStop(i, { opacity: (v ?? 100) / 100 }))}
      />
    </Box>
  ));
}

const BetweenPixels = ({ value, onChange }: { value: Resampling; onChange: (resampling: Resampling) => void }) => (
  <TextField
    select
    size="small"
    label="Between pixels"
    value={value}
    onChange={(e) => onChange(e.target.value as Resampling)}
    sx={{ width: 180 }}
  >
    {RESAMPLINGS.map((r) => (
      <MenuItem key={r} value={r}>
        {SMOOTHING[r]}
      </MenuItem>
    ))}
  </TextField>
);
