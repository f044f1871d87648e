import { Button } from '@mui/material';
import { closeSnackbar, enqueueSnackbar } from 'notistack';
import type { ChangeView } from '@rootmap/core/contract';
import { SHOWN_MS, undoAndTell } from './undo-flow.js';

/** Says where the person is looking what was done, and offers to take it back at once. */
export function tellDone(
  sentence: string,
  change: Pick<ChangeView, 'id' | 'canUndo'> | null,
  onUndone: () => void = () => undefined,
): void {
  const undo = (snack: string | number): void => {
    closeSnackbar(snack);
    void undoAndTell(change!.id).then((isUndone) => isUndone && onUndone());
  };
  enqueueSnackbar(sentence, {
    autoHideDuration: SHOWN_MS,
    ...(change?.canUndo
      ? {
          action: (snack: string | number) => (
            <Button color="inherit" onClick={() => undo(snack)}>
              Undo
            </Button>
          ),
        }
      : {}),
  });
}
