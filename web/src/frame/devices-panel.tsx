import { Box, Button, Popover, Stack, Switch, TextField, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { PlaceView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys, usePlaces } from '../api/queries.js';
import { sentenceOf } from '../parts/states.js';
import { StandIns } from './stand-ins.js';

interface Props {
  readonly anchor: HTMLElement;
  /** Servers of others are stood in for. */
  readonly withStandIns: boolean;
  readonly onClose: () => void;
}

/** What can be unplugged and plugged in. */
export default function DevicesPanel({ anchor, withStandIns, onClose }: Props) {
  const places = usePlaces();
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
      transformOrigin={{ vertical: 'top', horizontal: 'right' }}
    >
      <Stack spacing={1.5} sx={{ p: 2, width: 400 }} role="dialog" aria-label="Demo devices">
        <Typography variant="body2" color="text.secondary">
          These stand in for real devices: unplug one, or bring it back under another name, and watch the layers.
        </Typography>
        {places.data?.map((place) => (
          <Device key={place.name} place={place} />
        ))}
        {withStandIns && <StandIns />}
      </Stack>
    </Popover>
  );
}

function Device({ place }: { place: PlaceView }) {
  const client = useQueryClient();
  const [name, setName] = useState(place.driveNames[0] ?? '');
  const change = useMutation({
    mutationFn: (body: { present?: boolean; driveName?: string }) => api.demoPlace(place.name, body),
    onSuccess: (all) => client.setQueryData(keys.places, all),
  });
  return (
    <Box>
      <Stack direction="row" spacing={1} sx={{ alignItems: 'center' }}>
        <Typography sx={{ width: 72 }} variant="h3" component="span">
          {place.name}
        </Typography>
        <Switch
          size="small"
          checked={place.present}
          onChange={(_, present) => change.mutate({ present })}
          slotProps={{ input: { 'aria-label': `${place.name} plugged in` } }}
        />
        <TextField
          value={name}
          onChange={(e) => setName(e.target.value)}
          slotProps={{ htmlInput: { 'aria-label': `Drive name of ${place.name}`, className: 'mono' } }}
          sx={{ width: 140 }}
        />
        <Button disabled={name === (place.driveNames[0] ?? '') || name === ''} onClick={() => change.mutate({ driveName: name })}>
          Rename
        </Button>
      </Stack>
      {change.isError && (
        <Typography variant="body2" color="error" role="alert">
          {sentenceOf(change.error)}
        </Typography>
      )}
    </Box>
  );
}
