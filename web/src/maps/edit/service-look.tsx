import { Button, Stack, Typography } from '@mui/material';
import { useState } from 'react';
import { EMPTY_ITEM, kindOfAddress, layerNamesOf } from '@rootmap/core';
import { useOpenProject } from '../../frame/use-project.js';
import { CopyServiceDialog } from '../../services/copy-service-dialog.js';

interface Props {
  readonly href: string;
  readonly title: string;
  readonly inSight: () => readonly [number, number, number, number] | null;
}

/** What can be done with the look of a layer that a server draws or sends. */
export function ServiceLook({ href, title, inSight }: Props) {
  const project = useOpenProject();
  const [degrees, setDegrees] = useState<readonly [number, number, number, number] | null>(null);
  const [isCopying, setCopying] = useState(false);
  const kind = kindOfAddress(href);
  if (kind !== 'features')
    return (
      <Typography color="text.secondary">
        The server paints it. How clear it is, and at which scales it is drawn, is set under Layer.
      </Typography>
    );
  const [name = title] = layerNamesOf(href);
  return (
    <Stack spacing={1.5} sx={{ alignItems: 'flex-start' }}>
      <Typography color="text.secondary">
        Its records come from a server while the map is looked at, and are drawn plainly. A local copy can be drawn by its fields, labelled
        and filtered.
      </Typography>
      <Button
        variant="outlined"
        onClick={() => {
          setDegrees(inSight());
          setCopying(true);
        }}
      >
        Keep a local copy…
      </Button>
      {isCopying && (
        <CopyServiceDialog
          project={project}
          item={{ ...EMPTY_ITEM, name, title, href, use: 'copyable' }}
          {...(degrees ? { degrees } : {})}
          onClose={() => setCopying(false)}
        />
      )}
    </Stack>
  );
}
