import { useMemo, useState } from 'react';

export interface Selection {
  readonly paths: ReadonlySet<string>;
  /** The row that keys start from. */
  readonly focus: string | null;
  /** The row that a range starts from. */
  readonly anchor: string | null;
  /** `keepsAnchor`: a range grows from where it began. */
  readonly select: (paths: readonly string[], focus: string | null, keepsAnchor?: boolean) => void;
  readonly flip: (path: string) => void;
  /** Moves the focus and selects nothing. */
  readonly look: (path: string) => void;
}

interface State {
  readonly paths: ReadonlySet<string>;
  readonly focus: string | null;
  readonly anchor: string | null;
}

/** Which rows are selected, as lists of files work everywhere: click, Ctrl, Shift, and the same by keys. */
export function useSelection(initial: string | null): Selection {
  const [state, setState] = useState<State>({ paths: new Set(initial === null ? [] : [initial]), focus: initial, anchor: initial });
  return useMemo(
    () => ({
      ...state,
      select: (paths, focus, keepsAnchor = false) =>
        setState((s) => ({ paths: new Set(paths), focus, anchor: keepsAnchor ? (s.anchor ?? focus) : focus })),
      flip: (path) =>
        setState((s) => {
          const paths = new Set(s.paths);
          if (!paths.delete(path)) paths.add(path);
          return { paths, focus: path, anchor: path };
        }),
      look: (path) => setState((s) => ({ ...s, focus: path })),
    }),
    [state],
  );
}
