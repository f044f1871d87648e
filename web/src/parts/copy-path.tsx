import { Button, ListItemText, Menu, MenuItem } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { enqueueSnackbar } from 'notistack';
import { useState } from 'react';
import { parseAddress, toFileUri } from '@rootmap/core';
import type { PathRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useStatus } from '../api/queries.js';
import { copyText } from './copy-text.js';
import { sentenceOf } from './states.js';

interface Props {
  /** As people call it: with the drive name of its place. */
  readonly shown: string;
  /** From the root of the project; null: it is outside. */
  readonly relative: string | null;
}
interface MenuProps extends Props {
  /** Where it is, for the file manager of this machine. */
  readonly at: PathRequest;
}

/** The ways in which a path is written. */
export function pathForms({ shown, relative }: Props): { readonly name: string; readonly text: string }[] {
  const address = parseAddress(shown);
  const isWindows = address.ok && address.value.flavour !== 'posix';
  return [
    { name: 'As this system writes it', text: isWindows ? shown.replaceAll('/', '\\') : shown },
    ...(relative === null ? [] : [{ name: 'From the root of the project', text: relative }]),
    ...(address.ok ? [{ name: 'As a file: address', text: toFileUri(address.value) }] : []),
  ];
}

/** A path onto the clipboard, in the way in which it is needed. */
export function CopyPath({ at, ...props }: MenuProps) {
  const status = useStatus().data;
  const show = useMutation({
    mutationFn: () => api.showInFiles(at),
    onError: (error) => enqueueSnackbar(sentenceOf(error), { variant: 'error' }),
  });
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button variant="outlined" aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)}>
        Copy its path
      </Button>
      {status?.showsFiles && (
        <Button variant="outlined" disabled={show.isPending} onClick={() => show.mutate()}>
          Show in the file manager
        </Button>
      )}
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {pathForms(props).map(({ name, text }) => (
          <MenuItem key={name} dense onClick={() => (setAnchor(null), void copyText(text))}>
            <ListItemText primary={name} secondary={<span className="mono">{text}</span>} />
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
