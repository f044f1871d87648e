import { Button } from '@mui/material';
import { closeSnackbar, enqueueSnackbar } from 'notistack';
import type { ChangeView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { sentenceOf } from '../parts/states.js';
import { undoSentence } from './undo-sentence.js';

const SHOWN_MS = 12_000;

/** Takes a change back and says what came of it. Gives whether anything was undone. */
export async function undoAndTell(id: string): Promise<boolean> {
  try {
    const undone = await api.undo(id);
    enqueueSnackbar(undoSentence(undone), undone.kept.length > 0 ? { variant: 'warning', autoHideDuration: SHOWN_MS } : {});
    return undone.change !== null;
  } catch (error) {
    enqueueSnackbar(sentenceOf(error), { variant: 'error' });
    return false;
  }
}

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
