import { mdiDeleteOutline } from '@mdi/js';
import { Box, Button, IconButton, TextField } from '@mui/material';
import { useState } from 'react';
import { Icon } from '../../parts/icon.js';
import { useShelves } from '../use-shelves.js';
import { layoutOf, wishOf } from './layouts.js';
import type { Wish } from './page-wish.js';

interface Props {
  readonly wish: Wish;
  readonly set: (more: Partial<Wish>) => void;
}

/** A layout that was kept is taken for this page; this one is kept for others. */
export function PageChoice({ wish, set }: Props) {
  const { layouts, keepLayout, dropLayout } = useShelves();
  const [name, setName] = useState('');
  const kept = layouts.find((l) => l.name === name) ?? null;
  const isOther = kept === null || JSON.stringify({ ...wish, ...wishOf(kept) }) !== JSON.stringify(wish);
  return (
    <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
      <TextField
        size="small"
        label="Layout"
        placeholder="a name keeps this one"
        value={name}
        onChange={(e) => setName(e.target.value)}
        slotProps={{ htmlInput: { list: 'kept-layouts', maxLength: 80 } }}
        sx={{ flex: 1 }}
      />
      <datalist id="kept-layouts">
        {layouts.map((l) => (
          <option key={l.name} value={l.name} />
        ))}
      </datalist>
      {kept && (
        <Button size="small" disabled={!isOther} onClick={() => set(wishOf(kept))}>
          Take it
        </Button>
      )}
      <Button size="small" disabled={name.trim() === '' || !isOther} onClick={() => keepLayout(layoutOf(name.trim(), wish))}>
        {kept ? 'Keep anew' : 'Keep'}
      </Button>
      {kept && (
        <IconButton size="small" aria-label={`Drop the layout ${kept.name}`} onClick={() => dropLayout(kept.name)}>
          <Icon path={mdiDeleteOutline} sx={{ fontSize: 17 }} />
        </IconButton>
      )}
    </Box>
  );
}
