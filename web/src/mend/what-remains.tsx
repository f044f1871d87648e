import { Box, Button, IconButton, Stack, Typography } from '@mui/material';
import { mdiClose } from '@mdi/js';
import { groupBy } from '@rootmap/core';
import type { MendLayerView } from '@rootmap/core/contract';
import { many } from '../parts/format.js';
import { Icon } from '../parts/icon.js';

interface Props {
  /** What was done just now, as a sentence without its end. */
  readonly mended: string;
  /** Those that are still not sound, as the disk says after it. */
  readonly layers: readonly MendLayerView[];
  readonly onSelect: (key: string) => void;
  readonly onClose: () => void;
}

/** After mending: what remains, and why, each reason once. */
export function WhatRemains({ mended, layers, onSelect, onClose }: Props) {
  const reasons = groupBy(layers, (l) => l.trouble.sentence);
  return (
    <Box role="status" sx={{ mx: 1.75, mb: 1.25, p: 1.5, bgcolor: 'var(--spruce-wash)', borderRadius: '6px' }}>
      <Stack direction="row" sx={{ justifyContent: 'space-between', alignItems: 'flex-start' }}>
        <Typography sx={{ fontWeight: 650 }}>
          {mended}. {many(layers.length, 'layer')} {layers.length === 1 ? 'remains' : 'remain'}:
        </Typography>
        <IconButton size="small" aria-label="Close what remains" onClick={onClose}>
          <Icon path={mdiClose} />
        </IconButton>
      </Stack>
      {[...reasons].map(([sentence, those]) => (
        <Box key={sentence} sx={{ mt: 0.5 }}>
          <Button size="small" sx={{ px: 0, minWidth: 0 }} onClick={() => onSelect(those[0]!.key)}>
            {those.length === 1 ? those[0]!.title : many(those.length, 'layer')}
          </Button>
          <Typography variant="body2">
            {sentence} {those[0]!.trouble.fix}
          </Typography>
        </Box>
      ))}
    </Box>
  );
}
