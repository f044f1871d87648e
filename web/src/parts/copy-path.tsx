import { Button, ListItemText, Menu, MenuItem } from '@mui/material';
import { useState } from 'react';
import { parseAddress, toFileUri } from '@rootmap/core';
import { copyText } from './copy-text.js';

interface Props {
  /** As people call it: with the drive name of its place. */
  readonly shown: string;
  /** From the root of the project; null: it is outside. */
  readonly relative: string | null;
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
export function CopyPath(props: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button variant="outlined" aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)}>
        Copy its path
      </Button>
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
