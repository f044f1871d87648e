import { useCallback, useSyncExternalStore } from 'react';

const KEY = 'rootmap.scales';
/** Round scales that maps are often looked at in (common practice, no source). */
const USUAL: readonly number[] = [1000, 2500, 5000, 10_000, 25_000, 50_000, 100_000, 250_000, 1_000_000];
const MOST = 60;

const listeners = new Set<() => void>();
function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

let read: { readonly text: string | null; readonly scales: readonly number[] } = { text: null, scales: USUAL };
/** The list as this person has it; one that cannot be read is the usual one. */
function scales(): readonly number[] {
  const text = localStorage.getItem(KEY);
  if (text !== read.text) read = { text, scales: parsed(text) };
  return read.scales;
}

function parsed(text: string | null): readonly number[] {
  try {
    const list = text === null ? null : (JSON.parse(text) as unknown);
    if (Array.isArray(list)) return list.filter((n): n is number => typeof n === 'number' && Number.isFinite(n) && n > 0).slice(0, MOST);
  } catch {
    // what is there is no list: the usual one is shown, and the next change writes a good one
  }
  return USUAL;
}

/** The scales that a person goes to by name, the largest map first: kept in this browser, for all maps. */
export function useOwnScales() {
  const own = useSyncExternalStore(subscribe, scales);
  const set = useCallback((next: readonly number[]) => {
    localStorage.setItem(KEY, JSON.stringify([...new Set(next)].sort((a, b) => a - b).slice(0, MOST)));
    for (const listener of listeners) listener();
  }, []);
  const usual = useCallback(() => {
    localStorage.removeItem(KEY);
    for (const listener of listeners) listener();
  }, []);
  return { scales: own, set, usual, isUsual: own === USUAL };
}
