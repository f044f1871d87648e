import { Box, Button, Stack, Typography } from '@mui/material';
import { mdiTrayArrowDown } from '@mdi/js';
import type { ReactNode } from 'react';
import { useDropzone } from 'react-dropzone';
import { Icon } from './icon.js';

interface Props {
  readonly title: string;
  /** What is under way, or what will happen. */
  readonly status: string;
  /** Name of the file input. */
  readonly inputLabel: string;
  /** Words of the button that chooses files of this computer; left out: there is none. */
  readonly chooseLabel?: string;
  readonly isRoomy?: boolean;
  readonly isSingle?: boolean;
  readonly onFiles: (files: readonly File[]) => void;
  /** Further ways in. */
  readonly children: ReactNode;
}

/** Where files are dropped; everything that dropping does, a button does, too. */
export function DropZone({ title, status, inputLabel, chooseLabel, isRoomy = false, isSingle = false, onFiles, children }: Props) {
  const zone = useDropzone({ onDrop: onFiles, noKeyboard: true, noClick: true, multiple: !isSingle });
  return (
    <Box
      {...zone.getRootProps({ role: 'group', 'aria-label': title })}
      sx={{
        border: '2px dashed var(--stone)',
        borderColor: zone.isDragActive ? 'var(--ochre)' : 'var(--stone)',
        bgcolor: zone.isDragActive ? 'var(--ochre-wash)' : 'var(--sheet)',
        borderRadius: '6px',
        p: isRoomy ? { xs: 2, md: 4 } : 1.5,
        mb: 1.5,
        display: 'flex',
        flexWrap: 'wrap',
        alignItems: 'center',
        gap: 2,
      }}
    >
      <input {...zone.getInputProps({ 'aria-label': inputLabel })} />
      <Icon path={mdiTrayArrowDown} sx={{ fontSize: 28, color: 'var(--spruce)' }} aria-hidden />
      <Box sx={{ flex: '1 1 220px' }}>
        <Typography variant="h2">{title}</Typography>
        <Typography variant="body2" color="text.secondary" role="status">
          {status}
        </Typography>
      </Box>
      <Stack direction="row" spacing={1}>
        {chooseLabel !== undefined && (
          <Button variant="outlined" onClick={zone.open}>
            {chooseLabel}
          </Button>
        )}
        {children}
      </Stack>
    </Box>
  );
}
