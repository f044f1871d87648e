import { Box, Button, Checkbox, Chip, FormControlLabel, MenuItem, Radio, RadioGroup, Stack, TextField, Typography } from '@mui/material';
import { useState } from 'react';
import { ROLES, type Role } from '@rootmap/core';
import type { PackPreview, PathRequest, ToBringView } from '@rootmap/core/contract';
import { FolderChooser } from '../parts/folder-chooser.js';
import { bytes, many } from '../parts/format.js';
import { PathText } from '../parts/path-text.js';
import { ContentsTree } from './contents-tree.js';
import { MapPictures } from './map-pictures.js';
import { Step } from './step.js';
import type { Sending } from './use-send.js';

/** What goes in, and why each thing does. */
export function ContentsStep({ sending, preview }: { sending: Sending; preview: PackPreview }) {
  // The preview of one layer knows that layer only: the others are kept from before.
  const [layers, setLayers] = useState(preview.layers);
  if (sending.send.layer === null && !sending.isOld && preview.layers !== layers) setLayers(preview.layers);
  return (
    <Step number={1} title="Contents" subtitle={`${many(preview.files, 'file')}, ${bytes(preview.bytes)}`}>
      <What sending={sending} layers={layers} />
      <Outside sending={sending} outside={preview.outside} />
      {sending.send.layer === null && <Maps sending={sending} maps={preview.maps} />}
      <MapPictures sending={sending} preview={preview} />
      <StaysOut sending={sending} preview={preview} />
      <Added sending={sending} />
      <ContentsTree contents={preview.contents} />
    </Step>
  );
}

type Layers = PackPreview['layers'];
const keyOf = (l: Layers[number]): string => `${l.map}#${l.id}`;

function What({ sending: { send, set }, layers }: { sending: Sending; layers: Layers }) {
  const value = send.layer ? 'layer' : send.what;
  const choose = (what: string): void => {
    const [first] = layers;
    if (what === 'layer') set({ layer: first ? { map: first.map, id: first.id } : null });
    else set({ what: what === 'used' ? 'used' : 'all', layer: null });
  };
  const chosen = send.layer && `${send.layer.map}#${send.layer.id}`;
  return (
    <Box>
      <RadioGroup row aria-label="What goes in" value={value} onChange={(e) => choose(e.target.value)} sx={{ columnGap: 1 }}>
        <FormControlLabel value="all" control={<Radio size="small" />} label="The whole root" />
        <FormControlLabel value="used" control={<Radio size="small" />} label="Only what maps use" />
        <FormControlLabel value="layer" control={<Radio size="small" />} label="One layer with its look" disabled={layers.length === 0} />
      </RadioGroup>
      {chosen !== null && (
        <TextField
          select
          fullWidth
          size="small"
          label="Which layer"
          value={layers.some((l) => keyOf(l) === chosen) ? chosen : ''}
          onChange={(e) => {
            const layer = layers.find((l) => keyOf(l) === e.target.value);
            if (layer) set({ layer: { map: layer.map, id: layer.id } });
          }}
          sx={{ mt: 1 }}
        >
          {layers.map((l) => (
            <MenuItem key={keyOf(l)} value={keyOf(l)}>
              {l.title} · {l.map}
            </MenuItem>
          ))}
        </TextField>
      )}
    </Box>
  );
}

function Outside({ sending: { send, set }, outside }: { sending: Sending; outside: readonly ToBringView[] }) {
  if (outside.length === 0) return null;
  const { along } = send;
  const isIn = (o: ToBringView): boolean => along === 'all' || (along !== 'none' && along.includes(o.id));
  const chosen = outside.filter(isIn);
  const toggle = (o: ToBringView): void => {
    const now = isIn(o) ? chosen.filter((c) => c !== o) : [...chosen, o];
    set({ along: now.length === 0 ? 'none' : now.length === outside.length ? 'all' : now.map((c) => c.id) });
  };
  const size = outside.reduce((sum, o) => sum + o.bytes, 0);
  return (
    <Box sx={{ p: 1.25, borderRadius: 1, bgcolor: chosen.length === outside.length ? 'var(--spruce-wash)' : 'var(--ochre-wash)' }}>
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={chosen.length === outside.length}
            indeterminate={chosen.length > 0 && chosen.length < outside.length}
            onChange={(e) => set({ along: e.target.checked ? 'all' : 'none' })}
          />
        }
        label={
          <Typography component="span" sx={{ fontWeight: 650 }}>
            Bring along what stands outside the root
          </Typography>
        }
      />
      <Typography variant="body2" sx={{ mb: 0.5 }}>
        {many(outside.length, 'thing')}, {bytes(size)}, copied into the bundle; paths are rewritten there alone.
      </Typography>
      {chosen.length > 0 && (
        <FormControlLabel
          control={<Checkbox size="small" checked={send.gathers} onChange={(e) => set({ gathers: e.target.checked })} />}
          label="Tables and shapes in one geodatabase"
        />
      )}
      {outside.map((o) => (
        <Stack key={o.id} direction="row" sx={{ alignItems: 'flex-start', gap: 0.5 }}>
          <Checkbox
            size="small"
            sx={{ p: 0.5 }}
            checked={isIn(o)}
            onChange={() => toggle(o)}
            slotProps={{ input: { 'aria-label': `Bring along ${o.shown}` } }}
          />
          <Box sx={{ minWidth: 0 }}>
            <PathText path={o.shown} most={40} />
            <Typography variant="body2" color="text.secondary">
              {bytes(o.bytes)}, {o.kind} of {o.uses[0]!.layer}
              {o.uses.length > 1 ? ` and ${o.uses.length - 1} more` : ''}
            </Typography>
          </Box>
        </Stack>
      ))}
    </Box>
  );
}

function Maps({ sending: { send, set }, maps }: { sending: Sending; maps: PackPreview['maps'] }) {
  if (maps.length < 2) return null;
  const chosen = new Set(send.maps ?? maps.map((m) => m.path));
  const toggle = (path: string): void => {
    const now = maps.map((m) => m.path).filter((p) => (p === path ? !chosen.has(p) : chosen.has(p)));
    set({ maps: now.length === maps.length ? null : now });
  };
  return (
    <details>
      <summary>Maps: {send.maps === null ? `all ${maps.length}` : `${chosen.size} of ${maps.length}`}</summary>
      <Stack sx={{ pl: 1 }}>
        {maps.map((m) => (
          <FormControlLabel
            key={m.path}
            control={<Checkbox size="small" sx={{ p: 0.5 }} checked={chosen.has(m.path)} onChange={() => toggle(m.path)} />}
            label={m.title}
          />
        ))}
      </Stack>
    </details>
  );
}

function StaysOut({ sending: { send, set }, preview }: { sending: Sending; preview: PackPreview }) {
  const [pattern, setPattern] = useState('');
  const add = (): void => {
    if (pattern.trim() !== '') set({ without: [...send.without.filter((w) => w !== pattern.trim()), pattern.trim()] });
    setPattern('');
  };
  const toggle = (role: Role): void =>
    set({ withoutRoles: send.withoutRoles.includes(role) ? send.withoutRoles.filter((r) => r !== role) : [...send.withoutRoles, role] });
  return (
    <details>
      <summary>Stays out: {preview.leftOut.length === 0 ? 'nothing' : many(preview.leftOut.length, 'thing')}</summary>
      <Stack spacing={1} sx={{ pl: 1, pt: 0.5 }}>
        <Box role="group" aria-label="Leave out by role" sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5 }}>
          {ROLES.filter((r) => r !== 'maps').map((role) => (
            <Chip
              key={role}
              size="small"
              label={role}
              aria-pressed={send.withoutRoles.includes(role)}
              color={send.withoutRoles.includes(role) ? 'primary' : 'default'}
              variant={send.withoutRoles.includes(role) ? 'filled' : 'outlined'}
              onClick={() => toggle(role)}
            />
          ))}
        </Box>
        <Stack direction="row" spacing={1} component="form" onSubmit={(e) => (e.preventDefault(), add())}>
          <TextField
            size="small"
            label="Path or pattern"
            placeholder="*.tif"
            value={pattern}
            onChange={(e) => setPattern(e.target.value)}
          />
          <Button type="submit" disabled={pattern.trim() === ''}>
            Leave out
          </Button>
        </Stack>
        <Box>
          {send.without.map((w) => (
            <Chip key={w} size="small" label={w} onDelete={() => set({ without: send.without.filter((x) => x !== w) })} sx={{ mr: 0.5 }} />
          ))}
        </Box>
        <TextField
          size="small"
          type="date"
          label="No map uses it, last changed before"
          slotProps={{ inputLabel: { shrink: true } }}
          value={send.notBefore ?? ''}
          onChange={(e) => set({ notBefore: e.target.value === '' ? null : e.target.value })}
        />
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={send.tables === 'used'}
              onChange={(e) => set({ tables: e.target.checked ? 'used' : 'whole' })}
            />
          }
          label="Of geodatabases only the tables that layers use"
        />
        <FormControlLabel
          control={<Checkbox size="small" checked={send.leaveFetchable} onChange={(e) => set({ leaveFetchable: e.target.checked })} />}
          label="Data that its publisher offers: listed with address, size and hash instead"
        />
        <LeftOut rows={preview.leftOut} />
      </Stack>
    </details>
  );
}

const MOST_ROWS = 60;
const LeftOut = ({ rows }: { rows: PackPreview['leftOut'] }) => (
  <Box>
    {rows.slice(0, MOST_ROWS).map((r) => (
      <Box key={r.path + r.why} sx={{ py: 0.25 }}>
        <PathText path={r.path} most={44} />
        <Typography variant="body2" color="text.secondary">
          {r.why}
        </Typography>
      </Box>
    ))}
    {rows.length > MOST_ROWS && <Typography>and {many(rows.length - MOST_ROWS, 'more', 'more')}</Typography>}
  </Box>
);

function Added({ sending: { send, set } }: { sending: Sending }) {
  const [choosing, setChoosing] = useState(false);
  const same = (a: PathRequest, b: PathRequest): boolean => a.place === b.place && a.path === b.path;
  return (
    <Box>
      {send.added.map((at) => (
        <Chip
          key={`${at.place}/${at.path}`}
          size="small"
          label={`${at.place}: ${at.path}`}
          onDelete={() => set({ added: send.added.filter((a) => !same(a, at)) })}
          sx={{ mr: 0.5, maxWidth: '100%' }}
        />
      ))}
      <Button onClick={() => setChoosing(true)}>Add a letter, a photograph, another file…</Button>
      <FolderChooser
        open={choosing}
        title="Which file goes along"
        useFolderLabel="Add this folder"
        acceptsFile={() => true}
        onClose={() => setChoosing(false)}
        onChoose={(at) => {
          if (!send.added.some((a) => same(a, at))) set({ added: [...send.added, at] });
          setChoosing(false);
        }}
      />
    </Box>
  );
}
