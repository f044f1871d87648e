import { useCallback } from 'react';
import { useSearchParams } from 'react-router';

/** By name of the parameter; a list for one that is there several times. */
export type UrlChanges = Readonly<Record<string, string | readonly string[] | null>>;

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
 * What a page keeps in its address, so that back and reload keep the place: the search, and how to change some of it. A change
 * takes the place of the one before in the history, or with `{ step: true }` becomes a step that back leads away from.
 */
export function useUrlState(): readonly [URLSearchParams, (changes: UrlChanges, options?: { readonly step?: boolean }) => void] {
  const [search, setSearch] = useSearchParams();
  const set = useCallback(
    (changes: UrlChanges, { step = false } = {}) => setSearch((before) => withChanges(before, changes), { replace: !step }),
    [setSearch],
  );
  return [search, set];
}
