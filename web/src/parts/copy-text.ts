import { enqueueSnackbar } from 'notistack';

/** Puts a text on the clipboard and tells so; where the browser does not let the page, it is shown for copying by hand. */
export async function copyText(text: string, done = `Copied: ${text}`): Promise<void> {
  try {
    await navigator.clipboard.writeText(text);
    enqueueSnackbar(done);
  } catch {
    enqueueSnackbar(`The browser does not let the page copy. Mark it and copy it yourself: ${text}`, { autoHideDuration: 20_000 });
  }
}
