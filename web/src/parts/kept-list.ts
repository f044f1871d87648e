import { useSyncExternalStore } from 'react';

/** A list that a person keeps in this browser, shared by all that show it. */
export interface KeptList<T> {
  /** The list, for a component. */
  readonly use: () => readonly T[];
  readonly now: () => readonly T[];
  readonly set: (next: readonly T[]) => void;
  /** As it is for whoever kept nothing yet. */
  readonly forget: () => void;
}

/**
 * @param isItem what stands in the browser may be of another version, or of another page: only items pass
 * @param usual what there is before anything was kept, and where nothing that is kept can be read
 */
export function keptList<T>(key: string, isItem: (value: unknown) => value is T, most: number, usual: readonly T[] = []): KeptList<T> {
  const listeners = new Set<() => void>();
  let read: { readonly text: string | null; readonly list: readonly T[] } = { text: null, list: usual };
  const tell = (): void => listeners.forEach((listener) => listener());
  const parsed = (text: string | null): readonly T[] => {
    try {
      const list = text === null ? null : (JSON.parse(text) as unknown);
      if (Array.isArray(list)) return list.filter(isItem).slice(0, most);
    } catch {
      // it is no list: the usual one is shown, and the next change writes a good one
    }
    return usual;
  };
  const now = (): readonly T[] => {
    const text = localStorage.getItem(key);
    if (text !== read.text) read = { text, list: parsed(text) };
    return read.list;
  };
  const subscribe = (listener: () => void): (() => void) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  };
  return {
    use: () => useSyncExternalStore(subscribe, now),
    now,
    set: (next) => {
      localStorage.setItem(key, JSON.stringify(next.slice(0, most)));
      tell();
    },
    forget: () => {
      localStorage.removeItem(key);
      tell();
    },
  };
}
