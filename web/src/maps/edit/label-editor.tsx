import {
  Box,
  Button,
  FormControlLabel,
  Menu,
  MenuItem,
  Switch,
  TextField,
  ToggleButton,
  ToggleButtonGroup,
  Typography,
} from '@mui/material';
import { useState } from 'react';
import { fieldsOfTemplate, PLACEMENTS, PLAIN_LABEL, usualPlacement, type Field, type Label, type ShapeKind } from '@rootmap/core';
import { ColourField } from './colour-field.js';
import { NumberField } from './number-field.js';

const WORDS: Readonly<Record<Label['placement'], string>> = {
  over: 'Over it',
  right: 'To its right',
  above: 'Above it',
  along: 'Along the line',
};

interface Props {
  readonly label: Label | null;
  readonly kind: ShapeKind;
  readonly fields: readonly Field[];
  readonly onChange: (label: Label | null, what?: string) => void;
}

/** Text from the fields of a record, beside its shape. */
export function LabelEditor({ label, kind, fields, onChange }: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const named = fields.filter((f) => f.type !== 'binary');
  const first = named.find((f) => f.type === 'text') ?? named[0];
  const start = (): Label => ({ ...PLAIN_LABEL, template: first ? `{${first.name}}` : '', placement: usualPlacement(kind) });
  const set = (more: Partial<Label>, what?: string): void => onChange({ ...label!, ...more }, what);
  const missing = label ? fieldsOfTemplate(label.template).filter((name) => !fields.some((f) => f.name === name)) : [];
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5 }}>
      <FormControlLabel
        control={
          <Switch size="small" checked={label !== null} disabled={!first} onChange={(e) => onChange(e.target.checked ? start() : null)} />
        }
        label={first ? 'Labels' : 'This layer has no fields to make labels of'}
      />
      {label && (
        <>
          <Box sx={{ display: 'flex', gap: 1, alignItems: 'flex-start' }}>
            <TextField
              size="small"
              fullWidth
              label="Text, fields in braces"
              value={label.template}
              onChange={(e) => set({ template: e.target.value }, 'label')}
              error={missing.length > 0}
              helperText={missing.length > 0 ? `There is no field ${missing.map((m) => `"${m}"`).join(', ')}.` : undefined}
              slotProps={{ htmlInput: { className: 'mono' } }}
            />
            <Button aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)} sx={{ whiteSpace: 'nowrap' }}>
              Add a field
            </Button>
            <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
              {named.map((f) => (
                <MenuItem key={f.name} onClick={() => (set({ template: `${label.template}{${f.name}}` }), setAnchor(null))}>
                  {f.name}
                </MenuItem>
              ))}
            </Menu>
          </Box>
          <ToggleButtonGroup
            exclusive
            size="small"
            value={label.placement}
            aria-label="Placement"
            onChange={(_, v: Label['placement'] | null) => v && set({ placement: v })}
          >
            {PLACEMENTS.filter((p) => kind === 'line' || kind === 'mixed' || p !== 'along').map((p) => (
              <ToggleButton key={p} value={p}>
                {WORDS[p]}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
          <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1.25, alignItems: 'center' }}>
            <NumberField label="Size px" value={label.size} min={6} max={72} onChange={(v) => set({ size: v ?? 12 })} />
            <ColourField label="Text" value={label.colour} onChange={(colour) => set({ colour }, 'label colour')} />
            <ColourField
              label="Halo"
              value={label.halo?.colour ?? null}
              onChange={(colour) => set({ halo: { colour, width: label.halo?.width ?? 1.6 } }, 'halo')}
              onNone={() => set({ halo: null })}
            />
            {label.halo && (
              <NumberField
                label="Halo px"
                value={label.halo.width}
                min={0}
                max={10}
                onChange={(v) => set({ halo: { colour: label.halo!.colour, width: v ?? 1.6 } })}
              />
            )}
          </Box>
        </>
      )}
      <Typography variant="body2" color="text.secondary">
        Labels give way to one another: where two would overlap, one is left out until there is room.
      </Typography>
    </Box>
  );
}
