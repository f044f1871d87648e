import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from '@mui/material';
import type { SxProps } from '@mui/material/styles';
import { useId, type ElementType, type FormEvent, type ReactNode } from 'react';

interface Props {
  readonly title: ReactNode;
  /** Verb and object, for the button that does it. */
  readonly confirm: ReactNode;
  /** It cannot be done yet, or has been begun. */
  readonly disabled: boolean;
  /** It is going on: nothing closes the dialog then. */
  readonly isBusy?: boolean;
  readonly maxWidth?: 'xs' | 'sm' | 'md' | 'lg';
  readonly onConfirm: () => void;
  readonly onClose: () => void;
  readonly children: ReactNode;
  readonly contentSx?: SxProps;
  /** The foot, where it is not 'Cancel' and the button: given the button. */
  readonly foot?: (button: ReactNode) => ReactNode;
}

/** A dialog in which something is decided: Enter confirms, Escape leaves. */
export function FormDialog({
  title,
  confirm,
  disabled,
  isBusy = false,
  maxWidth = 'md',
  onConfirm,
  onClose,
  children,
  contentSx = {},
  foot,
}: Props) {
  const id = useId();
  const submit = (e: FormEvent): void => {
    e.preventDefault();
    e.stopPropagation(); // a dialog may stand in a dialog
    if (!disabled) onConfirm();
  };
  const button = (
    <Button type="submit" variant="contained" disabled={disabled}>
      {confirm}
    </Button>
  );
  return (
    <Dialog
      open
      onClose={isBusy ? undefined : onClose}
      maxWidth={maxWidth}
      fullWidth
      aria-labelledby={id}
      slotProps={{ paper: { component: 'form' as ElementType, noValidate: true, onSubmit: submit } as object }}
    >
      <DialogTitle id={id} variant="h2">
        {title}
      </DialogTitle>
      <DialogContent sx={contentSx}>{children}</DialogContent>
      {foot ? (
        foot(button)
      ) : (
        <DialogActions sx={{ px: 3, pb: 2 }}>
          <Button onClick={onClose}>Cancel</Button>
          {button}
        </DialogActions>
      )}
    </Dialog>
  );
}
