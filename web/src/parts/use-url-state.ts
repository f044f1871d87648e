import { useCallback } from 'react';
import { useSearchParams } from 'react-router';

/** By name of the parameter; a list for one that is there several times. */
export type UrlChanges = Readonly<Record<string, string | readonly string[] | null>>;

interface Options {
  /** A step that back leads away from; otherwise it takes the place of the one before in the history. */
  readonly step?: boolean;
  /** Nothing else that stood in the address stays. */
  readonly afresh?: boolean;
}

/** The search with some of its parameters set; null, '' and an empty list take one out. */
export function withChanges(before: URLSearchParams, changes: UrlChanges): URLSearchParams {
  const now = new URLSearchParams(before);
  for (const [name, value] of Object.entries(changes)) {
    now.delete(name);
    for (const one of typeof value === 'string' ? [value] : (value ?? [])) if (one !== '') now.append(name, one);
  }
  return now;
}

/**
 * What a page keeps in its address, so that back and reload keep the place: the search, and how to change some of it. A change is
 * shown at once: drawn whenever there is time, the next press or letter would still meet what was there before, and be lost with it.
 */
export function useUrlState(): readonly [URLSearchParams, (changes: UrlChanges, options?: Options) => void] {
  const [search, setSearch] = useSearchParams();
  const set = useCallback(
    (changes: UrlChanges, { step = false, afresh = false }: Options = {}) =>
      setSearch((before) => withChanges(afresh ? new URLSearchParams() : before, changes), { replace: !step, flushSync: true }),
    [setSearch],
  );
  return [search, set];
}
