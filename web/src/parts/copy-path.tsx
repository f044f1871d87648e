import { Button, Divider, ListItemText, Menu, MenuItem } from '@mui/material';
import { useMutation } from '@tanstack/react-query';
import { enqueueSnackbar } from 'notistack';
import { useState, type ReactElement } from 'react';
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

/** Shows a path in the file manager of this machine; null where the server has none to show it in. */
function useShowInFiles(at: PathRequest): { readonly show: () => void; readonly isPending: boolean } | null {
  const status = useStatus().data;
  const { mutate, isPending } = useMutation({
    mutationFn: () => api.showInFiles(at),
    onError: (error) => enqueueSnackbar(sentenceOf(error), { variant: 'error' }),
  });
  return status?.showsFiles ? { show: mutate, isPending } : null;
}

/** Items of a menu, one for each way in which a path is written. @param lead stands before the name of the way */
const pathItems = (props: Props, onDone: () => void, lead = '') =>
  pathForms(props).map(({ name, text }) => (
    <MenuItem key={name} dense onClick={() => (onDone(), void copyText(text))}>
      <ListItemText
        primary={lead === '' ? name : `${lead} ${name.charAt(0).toLowerCase()}${name.slice(1)}`}
        secondary={<span className="mono">{text}</span>}
      />
    </MenuItem>
  ));

/** A path onto the clipboard, in the way in which it is needed. */
export function CopyPath({ at, ...props }: MenuProps) {
  const files = useShowInFiles(at);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button variant="outlined" aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)}>
        Copy its path
      </Button>
      {files && (
        <Button variant="outlined" disabled={files.isPending} onClick={files.show}>
          Show in the file manager
        </Button>
      )}
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {pathItems(props, () => setAnchor(null))}
      </Menu>
    </>
  );
}

/** The same as items of a menu that has others, below a line: to be called and spread, since a menu takes no group. */
export function usePathItems(of: MenuProps | null, onDone: () => void): ReactElement[] {
  const files = useShowInFiles(of?.at ?? NOWHERE);
  if (of === null) return [];
  return [
    <Divider key="line" />,
    ...pathItems(of, onDone, 'Copy its path'),
    ...(files
      ? [
          <MenuItem key="files" disabled={files.isPending} onClick={() => (onDone(), files.show())}>
            Show in the file manager
          </MenuItem>,
        ]
      : []),
  ];
}
const NOWHERE: PathRequest = { place: '', path: '' };
