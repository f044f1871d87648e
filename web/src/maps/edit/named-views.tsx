import { scaleText } from '@rootmap/core';
import { mdiDeleteOutline } from '@mdi/js';
import { Box, Button, IconButton, Popover, TextField, Typography } from '@mui/material';
import { useState, type FormEvent } from 'react';
import type { NamedView } from '@rootmap/core/contract';
import { Icon } from '../../parts/icon.js';
import type { MapWork } from './use-map-work.js';

interface Props {
  readonly work: MapWork;
  readonly anchor: HTMLElement;
  readonly onClose: () => void;
}

/** Views of the map that have names: kept in its file, gone to in one press. */
export function NamedViews({ work, anchor, onClose }: Props) {
  const { editor, sight, scene, plane } = work;
  const middle = sight && plane.toDegrees(sight.center);
  const go = ({ at, scale }: NamedView): void => {
    const to = plane.toPlane(at);
    if (!to) return;
    scene.current?.goTo(to, scale);
    onClose();
  };
  const { draft, edit } = editor;
  const [name, setName] = useState('');
  const keep = (e: FormEvent): void => {
    e.preventDefault();
    const kept = name.trim();
    if (!sight || !middle || kept === '') return;
    const view: NamedView = { name: kept, at: middle, scale: sight.scale };
    edit({ ...draft, views: [...draft.views.filter((v) => v.name !== kept), view] }, null);
    setName('');
  };
  const isKnown = draft.views.some((v) => v.name === name.trim());
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: 'top', horizontal: 'left' }}
      transformOrigin={{ vertical: 'top', horizontal: 'right' }}
      slotProps={{ paper: { role: 'dialog', 'aria-label': 'Named views', sx: { p: 1.5, width: 300, display: 'grid', gap: 1 } } }}
    >
      <Typography component="h2" sx={{ fontSize: 14, fontWeight: 700 }}>
        Named views
      </Typography>
      {draft.views.length === 0 && (
        <Typography variant="body2" color="text.secondary">
          {middle ? 'None yet.' : 'A view can be named once the map has a CRS.'} Name what the map shows now, and come back to it in one
          press; views are kept in the map.
        </Typography>
      )}
      <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', maxHeight: 260, overflow: 'auto' }}>
        {draft.views.map((v) => (
          <Box component="li" key={v.name} sx={{ display: 'flex', alignItems: 'center' }}>
            <Button
              size="small"
              disabled={!plane.toPlane(v.at)}
              onClick={() => go(v)}
              sx={{ flex: 1, justifyContent: 'space-between', gap: 1, minWidth: 0 }}
            >
              <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis' }}>
                {v.name}
              </Box>
              <Box component="span" className="mono" sx={{ color: 'text.secondary', fontSize: 12 }}>
                {scaleText(v.scale)}
              </Box>
            </Button>
            <IconButton
              size="small"
              aria-label={`Take ${v.name} away`}
              onClick={() => edit({ ...draft, views: draft.views.filter((o) => o !== v) }, null)}
            >
              <Icon path={mdiDeleteOutline} sx={{ fontSize: 17 }} />
            </IconButton>
          </Box>
        ))}
      </Box>
      <Box component="form" onSubmit={keep} sx={{ display: 'flex', gap: 1 }}>
        <TextField
          size="small"
          label="Name of this view"
          value={name}
          onChange={(e) => setName(e.target.value)}
          slotProps={{ htmlInput: { maxLength: 200 } }}
          sx={{ flex: 1 }}
        />
        <Button type="submit" variant="outlined" disabled={name.trim() === '' || !middle}>
          {isKnown ? 'Set anew' : 'Keep'}
        </Button>
      </Box>
    </Popover>
  );
}
