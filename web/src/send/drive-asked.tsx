import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { BundleView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { usePlaces } from '../api/queries.js';
import { many } from '../parts/format.js';
import { sentenceOf, Tag } from '../parts/states.js';

const plain = (name: string): string => name.replaceAll('\\', '/').replace(/\/+$/, '').toLowerCase();

/** A drive that maps of a bundle still name: which place here it is, asked where no place bears its name. */
export function DriveAsked({ drive: { name, layers } }: { drive: BundleView['drives'][number] }) {
  const places = usePlaces();
  const [chosen, setChosen] = useState('');
  const call = useMutation({ mutationFn: () => api.callPlace(chosen, name), onSuccess: () => places.refetch() });
  const known = places.data?.find((p) => p.driveNames.some((d) => plain(d) === plain(name)));
  return (
    <Box sx={{ mb: 0.75 }}>
      <Typography variant="body2">
        <Tag tone={known ? 'spruce' : 'ochre'}>{many(layers, 'layer')}</Tag> <span className="mono">{name}</span>{' '}
        {known ? `is the place ${known.name} here` : 'is no place here'}
      </Typography>
      {!known && places.data && (
        <Box sx={{ display: 'flex', gap: 1, mt: 0.5 }}>
          <TextField
            select
            size="small"
            label={`${name} is here`}
            value={chosen}
            onChange={(e) => setChosen(e.target.value)}
            sx={{ minWidth: 180 }}
          >
            {places.data.map((p) => (
              <MenuItem key={p.name} value={p.name}>
                {p.name}
              </MenuItem>
            ))}
          </TextField>
          <Button disabled={chosen === '' || call.isPending} onClick={() => call.mutate()}>
            Say so
          </Button>
        </Box>
      )}
      {call.isSuccess && !call.data.isKept && (
        <Typography variant="body2">Until the next start: ROOTMAP_PLACES sets the places here.</Typography>
      )}
      {call.error && <div role="alert">{sentenceOf(call.error)}</div>}
    </Box>
  );
}
