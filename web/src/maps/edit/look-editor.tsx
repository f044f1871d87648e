import { Box, Button, Menu, MenuItem, TextField, ToggleButton, ToggleButtonGroup, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { CLASS_METHODS, fieldOfLook, type Field, type Look, type ShapeKind, type VectorLook } from '@rootmap/core';
import type { LayerPictureView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { many } from '../../parts/format.js';
import { sentenceOf } from '../../parts/states.js';
import { byClassLook, byValueLook, symbolOfLook, toned } from './new-look.js';
import { LookEntries } from './look-entries.js';
import { RampChoice } from './ramp-choice.js';
import { coloursOf, RAMPS, type Ramp } from './ramps.js';
import { NumberField } from './number-field.js';
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

/** What is counted in the data. */
interface Asked {
  readonly field: string;
  readonly method: 'equal' | 'quantile' | 'natural' | 'values';
  readonly classes: number;
}

/** One look for all, by value, or by class; counted as they are in the data. */
export function LookEditor(props: Props) {
  const { projectKey, dataset, look, kind, fields, filter, picture, copies, onChange } = props;
  const [ramp, setRamp] = useState<Ramp>(RAMPS[0]);
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
    mutationFn: (r: Asked) => api.classes(projectKey, { dataset, filter, ...r }),
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
        <CopyFrom copies={copies} onChange={onChange} />
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
          <LookEntries look={look} kind={kind} picture={picture} onChange={onChange} />
        </>
      )}
      {look.kind === 'by-class' && <ByClass {...props} look={look} numeric={numeric} ramp={ramp} onRamp={setRamp} read={read.mutate} />}
      {look.kind === 'rules' && <Rules {...props} look={look} />}
      {picture !== null && picture.hidden > 0 && (
        <Typography variant="body2" color="text.secondary">
          {many(picture.hidden, 'record')} not drawn:{' '}
          {filter.trim() === '' ? 'no value or class has them' : 'left out by the filter, or by every value and class'}.
        </Typography>
      )}
    </Box>
  );
}

/** The menu of looks that other layers have. */
function CopyFrom({ copies, onChange }: Pick<Props, 'copies' | 'onChange'>) {
  const [copyFrom, setCopyFrom] = useState<HTMLElement | null>(null);
  return (
    <>
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
    </>
  );
}

interface ByClassProps extends Props {
  readonly look: Extract<VectorLook, { kind: 'by-class' }>;
  readonly numeric: readonly Field[];
  readonly ramp: Ramp;
  readonly onRamp: (ramp: Ramp) => void;
  readonly read: (asked: Asked) => void;
}

function ByClass({ look, kind, picture, numeric, ramp, onRamp, read, onChange }: ByClassProps) {
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
        <FieldChoice
          label="Field"
          fields={numeric}
          value={look.field}
          onChange={(field) => read({ field, method: look.method === 'given' ? 'natural' : look.method, classes: look.entries.length })}
        />
        <TextField
          select
          size="small"
          label="Classes by"
          value={look.method}
          sx={{ width: 150 }}
          onChange={(e) =>
            e.target.value !== 'given' && read({ field: look.field, method: e.target.value as 'equal', classes: look.entries.length })
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
            read({ field: look.field, method: look.method === 'given' ? 'equal' : look.method, classes: Math.round(n) })
          }
        />
        <RampChoice
          value={ramp.name}
          onChange={(chosen) => {
            onRamp(chosen);
            const tones = coloursOf(chosen.stops, look.entries.length);
            onChange({ ...look, entries: look.entries.map((e, i) => ({ ...e, symbol: toned(e.symbol, tones[i] ?? '', kind) })) });
          }}
        />
      </Box>
      <LookEntries look={look} kind={kind} picture={picture} onChange={onChange} />
    </>
  );
}

/** Rules of a style as they are: their symbols can be changed. */
const Rules = ({ look, kind, picture, onChange }: Props & { readonly look: Extract<VectorLook, { kind: 'rules' }> }) => (
  <>
    {look.rules.map((r, i) => (
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
  </>
);

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
