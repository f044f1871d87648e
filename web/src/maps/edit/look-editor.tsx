import { Box, Button, Menu, MenuItem, TextField, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { CLASS_METHODS, fieldOfLook, type Field, type Look, type ShapeKind, type VectorLook } from '@rootmap/core';
import type { LayerPictureView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { many, number } from '../../parts/format.js';
import { sentenceOf } from '../../parts/states.js';
import { byClassLook, byValueLook, symbolOfLook, toned } from './new-look.js';
import { coloursOf, RAMPS } from './ramps.js';
import { NumberField } from './number-field.js';
import { SymbolSwatch } from './swatch.js';
import { SymbolEditor } from './symbol-editor.js';

type Method = (typeof CLASS_METHODS)[number];
const METHOD_WORDS: Readonly<Record<Method, string>> = {
  equal: 'equal intervals',
  quantile: 'quantiles',
  natural: 'natural breaks',
  given: 'breaks as given',
};

interface Props {
  readonly projectKey: string;
  readonly dataset: string;
  readonly look: VectorLook;
  readonly kind: ShapeKind;
  readonly fields: readonly Field[];
  readonly filter: string;
  readonly picture: LayerPictureView | null;
  /** Looks of other layers that this one could have; why not, where it cannot. */
  readonly copies: readonly { readonly title: string; readonly look: Look; readonly why: string | null }[];
  readonly onChange: (look: Look, what?: string) => void;
}

/** One look for all, by value, or by class; counted as they are in the data. */
export function LookEditor(props: Props) {
  const { projectKey, dataset, look, kind, fields, filter, picture, copies, onChange } = props;
  const [copyFrom, setCopyFrom] = useState<HTMLElement | null>(null);
  const [ramp, setRamp] = useState(RAMPS[0]!);
  const base = symbolOfLook(look, kind);
  const numeric = telling(
    fields.filter((f) => ['integer', 'integer64', 'real'].includes(f.type)),
    'real',
  );
  const keyed = telling(
    fields.filter((f) => f.type !== 'binary'),
    'text',
  );
  const read = useMutation({
    mutationFn: (r: { field: string; method: 'equal' | 'quantile' | 'natural' | 'values'; classes: number }) =>
      api.classes(projectKey, { dataset, filter, ...r }),
    onSuccess: (found, { field, method }) => {
      if (method === 'values') onChange(byValueLook(field, found, base, kind, found.isCut));
      else {
        const made = byClassLook(field, method, found.breaks, base, kind, ramp.stops);
        if (made) onChange(made);
      }
    },
  });
  const to = (next: string | null): void => {
    if (next === 'one') onChange({ kind: 'one', symbol: base });
    if (next === 'by-value' && keyed[0]) read.mutate({ field: fieldOfLook(look) ?? keyed[0].name, method: 'values', classes: 5 });
    if (next === 'by-class' && numeric[0])
      read.mutate({ field: numeric.find((f) => f.name === fieldOfLook(look))?.name ?? numeric[0].name, method: 'natural', classes: 5 });
  };
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
        <ToggleButtonGroup exclusive size="small" value={look.kind} onChange={(_, v: string | null) => to(v)} aria-label="Kind of look">
          <ToggleButton value="one">One look</ToggleButton>
          <ToggleButton value="by-value" disabled={keyed.length === 0}>
            By value
          </ToggleButton>
          <ToggleButton value="by-class" disabled={numeric.length === 0}>
            By class
          </ToggleButton>
          {look.kind === 'rules' && <ToggleButton value="rules">Rules</ToggleButton>}
        </ToggleButtonGroup>
        <Button size="small" disabled={copies.length === 0} aria-haspopup="menu" onClick={(e) => setCopyFrom(e.currentTarget)}>
          Copy from…
        </Button>
        <Menu anchorEl={copyFrom} open={copyFrom !== null} onClose={() => setCopyFrom(null)}>
          {copies.map((c) => (
            <MenuItem key={c.title} disabled={c.why !== null} onClick={() => (onChange(c.look), setCopyFrom(null))}>
              {c.title}
              {c.why !== null && `: ${c.why}`}
            </MenuItem>
          ))}
        </Menu>
      </Box>
      {read.isError && <Typography color="error">{sentenceOf(read.error)}</Typography>}
      {look.kind === 'one' && (
        <SymbolEditor symbol={look.symbol} kind={kind} onChange={(symbol) => onChange({ ...look, symbol }, 'symbol')} />
      )}
      {look.kind === 'by-value' && (
        <>
          <FieldChoice
            label="Field"
            fields={keyed}
            value={look.field}
            onChange={(field) => read.mutate({ field, method: 'values', classes: 5 })}
          />
          <Entries look={look} kind={kind} picture={picture} onChange={onChange} />
        </>
      )}
      {look.kind === 'by-class' && (
        <>
          <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
            <FieldChoice
              label="Field"
              fields={numeric}
              value={look.field}
              onChange={(field) =>
                read.mutate({ field, method: look.method === 'given' ? 'natural' : look.method, classes: look.entries.length })
              }
            />
            <TextField
              select
              size="small"
              label="Classes by"
              value={look.method}
              sx={{ width: 150 }}
              onChange={(e) =>
                e.target.value !== 'given' &&
                read.mutate({ field: look.field, method: e.target.value as 'equal', classes: look.entries.length })
              }
            >
              {CLASS_METHODS.map((m) => (
                <MenuItem key={m} value={m}>
                  {METHOD_WORDS[m]}
                </MenuItem>
              ))}
            </TextField>
            <NumberField
              label="Classes"
              value={look.entries.length}
              min={1}
              max={24}
              width={70}
              onChange={(n) =>
                n &&
                n !== look.entries.length &&
                read.mutate({ field: look.field, method: look.method === 'given' ? 'equal' : look.method, classes: Math.round(n) })
              }
            />
            <RampChoice
              value={ramp.name}
              onChange={(chosen) => {
                setRamp(chosen);
                const tones = coloursOf(chosen.stops, look.entries.length);
                onChange({ ...look, entries: look.entries.map((e, i) => ({ ...e, symbol: toned(e.symbol, tones[i]!, kind) })) });
              }}
            />
          </Box>
          <Entries look={look} kind={kind} picture={picture} onChange={onChange} />
        </>
      )}
      {look.kind === 'rules' &&
        look.rules.map((r, i) => (
          <Box key={i} sx={{ borderTop: '1px solid var(--rule)', pt: 1 }}>
            <Typography variant="body2">
              {r.title || 'rule'} <span className="mono">{r.filter ?? (r.isElse ? 'all others' : 'every record')}</span>
              {picture && <> · {many(picture.counts[i] ?? 0, 'record')}</>}
            </Typography>
            <SymbolEditor
              symbol={r.symbol}
              kind={kind}
              onChange={(symbol) => onChange({ ...look, rules: look.rules.map((o, k) => (k === i ? { ...o, symbol } : o)) }, `rule ${i}`)}
            />
          </Box>
        ))}
      {picture !== null && picture.hidden > 0 && (
        <Typography variant="body2" color="text.secondary">
          {many(picture.hidden, 'record')} not drawn:{' '}
          {filter.trim() === '' ? 'no value or class has them' : 'left out by the filter, or by every value and class'}.
        </Typography>
      )}
    </Box>
  );
}

/** Fields with the one first that most likely tells records apart: of the type that is wanted, and no running number. */
function telling(fields: readonly Field[], wanted: Field['type']): readonly Field[] {
  const rank = (f: Field): number => (/^(o?id|fid|gid|objectid|ogc_fid)$/i.test(f.name) ? 2 : f.type === wanted ? 0 : 1);
  return [...fields].sort((a, b) => rank(a) - rank(b));
}

const FieldChoice = ({
  label,
  fields,
  value,
  onChange,
}: {
  label: string;
  fields: readonly Field[];
  value: string;
  onChange: (name: string) => void;
}) => (
  <TextField
    select
    size="small"
    label={label}
    value={fields.some((f) => f.name === value) ? value : ''}
    onChange={(e) => onChange(e.target.value)}
    sx={{ minWidth: 150 }}
  >
    {fields.map((f) => (
      <MenuItem key={f.name} value={f.name}>
        {f.name}{' '}
        <Box component="span" sx={{ color: 'text.secondary', ml: 1, fontSize: 12 }}>
          {f.type}
        </Box>
      </MenuItem>
    ))}
  </TextField>
);

export const RampChoice = ({ value, onChange }: { value: string; onChange: (ramp: (typeof RAMPS)[number]) => void }) => (
  <TextField
    select
    size="small"
    label="Ramp"
    value={value}
    onChange={(e) => onChange(RAMPS.find((r) => r.name === e.target.value)!)}
    sx={{ width: 150 }}
  >
    {RAMPS.map((r) => (
      <MenuItem key={r.name} value={r.name}>
        <Box
          sx={{
            width: 44,
            height: 12,
            mr: 1,
            borderRadius: '3px',
            background: `linear-gradient(90deg, ${r.stops.join(', ')})`,
            display: 'inline-block',
          }}
        />
        {r.name}
      </MenuItem>
    ))}
  </TextField>
);

type Keyed = Extract<VectorLook, { kind: 'by-value' | 'by-class' }>;

/** The values or classes of a look, each with its symbol, title and number of records. */
function Entries({
  look,
  kind,
  picture,
  onChange,
}: {
  look: Keyed;
  kind: ShapeKind;
  picture: LayerPictureView | null;
  onChange: Props['onChange'];
}) {
  const [open, setOpen] = useState<number | null>(null);
  const set = (i: number, more: object): void =>
    onChange({ ...look, entries: look.entries.map((e, k) => (k === i ? { ...e, ...more } : e)) } as Look, `entry ${i}`);
  return (
    <Box
      component="ul"
      aria-label={look.kind === 'by-value' ? 'Values' : 'Classes'}
      sx={{ listStyle: 'none', m: 0, p: 0, maxHeight: 260, overflow: 'auto', fontSize: 13 }}
    >
      {look.entries.map((e, i) => (
        <Box component="li" key={i} sx={{ borderTop: '1px solid var(--rule)', py: 0.25 }}>
          <Box sx={{ display: 'grid', gridTemplateColumns: '40px minmax(0,1fr) auto auto', alignItems: 'center', gap: 1 }}>
            <Button
              size="small"
              sx={{ minWidth: 0, p: 0.5 }}
              aria-label={`Symbol of ${e.title}`}
              aria-expanded={open === i}
              onClick={() => setOpen(open === i ? null : i)}
            >
              <SymbolSwatch symbol={e.symbol} kind={kind} />
            </Button>
            <TextField
              variant="standard"
              value={e.title}
              onChange={(x) => set(i, { title: x.target.value })}
              slotProps={{ htmlInput: { 'aria-label': `Title of entry ${i + 1}` } }}
            />
            <span className="mono">{picture ? number(picture.counts[i] ?? 0) : ''}</span>
            {look.kind === 'by-value' ? (
              <Button
                size="small"
                sx={{ minWidth: 0 }}
                aria-label={`Leave out ${e.title}`}
                onClick={() => onChange({ ...look, entries: look.entries.filter((_, k) => k !== i) })}
              >
                ✕
              </Button>
            ) : (
              <NumberField
                label="up to"
                value={look.breaks[i + 1]!}
                width={92}
                onChange={(v) => v !== null && onChange(withBreak(look, i + 1, v))}
              />
            )}
          </Box>
          {open === i && (
            <Box sx={{ p: 1 }}>
              <SymbolEditor symbol={e.symbol} kind={kind} onChange={(symbol) => set(i, { symbol })} />
            </Box>
          )}
        </Box>
      ))}
      {look.kind === 'by-value' && (
        <Box component="li" sx={{ borderTop: '1px solid var(--rule)', py: 0.5 }}>
          <Button
            size="small"
            onClick={() => onChange({ ...look, other: look.other ? null : toned(symbolOfLook(look, kind), '#8b948f', kind) })}
          >
            {look.other ? 'Do not draw all others' : 'Draw all others too'}
          </Button>
        </Box>
      )}
    </Box>
  );
}

/** A break that a person typed; it stays between its neighbours. */
function withBreak(look: Extract<VectorLook, { kind: 'by-class' }>, at: number, value: number): Look {
  const low = look.breaks[at - 1]!;
  const high = look.breaks[at + 1] ?? Infinity;
  const breaks = look.breaks.map((b, i) => (i === at ? Math.min(high, Math.max(low, value)) : b));
  const title = (i: number): string => `${Number(breaks[i]!.toPrecision(6))} to ${Number(breaks[i + 1]!.toPrecision(6))}`;
  return {
    ...look,
    method: 'given',
    breaks,
    entries: look.entries.map((e, i) => (i === at || i === at - 1 ? { ...e, title: title(i) } : e)),
  };
}
