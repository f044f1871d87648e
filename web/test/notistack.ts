/** In component tests nothing floats above the page: what would be told there is kept here, the last one at the end. */
export const told: string[] = [];
export const enqueueSnackbar = (sentence: string): number => told.push(sentence);
export const closeSnackbar = (): void => undefined;

export const useSnackbar = () => ({ enqueueSnackbar, closeSnackbar });
