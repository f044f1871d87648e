import { Box, FormControlLabel, Stack, Switch, Typography } from '@mui/material';
import { useState } from 'react';
import { isFindKeyOn, setFindKey } from './find-key.js';
import { Sheet } from '../parts/states.js';
import { Tether, type Bond } from '../parts/tether.js';

const MARKS: readonly [Bond, string][] = [
  [{ stored: 'relative', reach: 'inside', state: 'sound' }, 'Thin line, filled disc: stored relatively, data inside the root, sound.'],
  [{ stored: 'relative', reach: 'linked', state: 'sound' }, 'Double line: through a linked folder.'],
  [{ stored: 'relative', reach: 'outside', state: 'sound' }, 'A bar across: stored relatively, but it leaves the root without a link.'],
  [{ stored: 'absolute', reach: 'inside', state: 'sound' }, 'Thick line: stored absolutely, so it names one machine.'],
  [{ stored: 'service', reach: 'service', state: 'sound' }, 'Dotted line: a service on the network, asked and answering.'],
  [{ stored: 'service', reach: 'service', state: 'not-asked' }, 'Dashed ring with a point: a service that was not asked yet.'],
  [{ stored: 'relative', reach: 'inside', state: 'different' }, 'Diamond: something is there, but not the data it was.'],
  [{ stored: 'relative', reach: 'inside', state: 'incomplete' }, 'Half disc: a needed file of the dataset is missing.'],
  [{ stored: 'relative', reach: 'inside', state: 'adrift' }, 'Open ring, apart from its line: nothing is there.'],
  [{ stored: 'absolute', reach: 'linked', state: 'absent' }, 'Ring with a slash: its place is not here now.'],
  [{ stored: 'relative', reach: 'inside', state: 'unreadable' }, 'Square with a cross: damaged, or not permitted.'],
];

const KEYS: readonly [string, string][] = [
  ['/', 'Find a layer, dataset, map or page'],
  ['↑ ↓', 'From layer to layer in the root diagram and in Mend'],
  ['Enter', 'Go where the marked layer can be put right'],
  ['Esc', 'Close what floats, take the mark off'],
];

function FindKeySwitch() {
  const [on, setOn] = useState(isFindKeyOn);
  const change = (next: boolean): void => {
    setFindKey(next);
    setOn(next);
  };
  return (
    <FormControlLabel control={<Switch size="small" checked={on} onChange={(_, next) => change(next)} />} label="The key / goes to Find" />
  );
}

export function HelpPage() {
  return (
    <Stack spacing={2} sx={{ p: 3, maxWidth: 860, overflow: 'auto' }}>
      <Typography variant="h1">How to read a tether</Typography>
      <Typography>
        A map file holds no data: each layer only says where its data is. A tether draws that saying, from the layer (dot) to its data
        (end).
      </Typography>
      <Sheet sx={{ p: 2 }}>
        {MARKS.map(([bond, words]) => (
          <Stack key={words} direction="row" spacing={2} sx={{ py: 0.5, alignItems: 'center' }}>
            <Tether bond={bond} size="large" />
            <Typography>{words}</Typography>
          </Stack>
        ))}
      </Sheet>
      <Typography variant="h1" component="h2">
        Keys
      </Typography>
      <Sheet sx={{ p: 2 }}>
        {KEYS.map(([key, words]) => (
          <Stack key={key} direction="row" spacing={2} sx={{ py: 0.5 }}>
            <Box className="mono" sx={{ width: 84 }}>
              {key}
            </Box>
            <Typography>{words}</Typography>
          </Stack>
        ))}
        <FindKeySwitch />
      </Sheet>
    </Stack>
  );
}
