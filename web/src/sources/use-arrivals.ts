import { useEffect, useRef, useState } from 'react';
import type { PathRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { useStable } from '../parts/use-stable.js';
import { useUrlState } from '../parts/use-url-state.js';
import { sendFiles } from './send-files.js';

/** What arrived on the page, by dropping, by choosing, or by an address; the address of the page keeps it. */
export function useArrivals() {
  const [search, set] = useUrlState();
  const [ids, setIds] = useState<readonly string[]>(() => (search.get('arrivals') ?? '').split(',').filter(Boolean));
  const [sending, setSending] = useState<{ name: string; bytes: number } | null>(null);
  const [error, setError] = useState<unknown>(null);
  useEffect(() => {
    set({ arrivals: ids.join(',') });
    // The address follows what was dropped, not the other way round.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [ids]);
  const add = useStable((id: string): void => setIds((known) => (known.includes(id) ? known : [...known, id])));
  const arrived = useStable((id: string): void => {
    add(id);
    set({ address: null });
  });
  const send = async (files: readonly File[]): Promise<void> => {
    setError(null);
    try {
      await sendFiles(files, (file) => setSending({ name: file.name, bytes: file.size }), add);
    } catch (problem) {
      setError(problem);
    } finally {
      setSending(null);
    }
  };
  // An archive that an address names is looked into at once; then the address names what arrived.
  const named = search.get('archive');
  const asked = useRef<string | null>(null);
  useEffect(() => {
    if (named === null || asked.current === named) return;
    asked.current = named;
    const at = named.indexOf(':');
    api.chooseArrival({ place: named.slice(0, at), path: named.slice(at + 1) }).then(({ id }) => {
      add(id);
      set({ archive: null });
    }, setError);
  }, [named, set, add]);
  return {
    ids,
    /** What is on its way from the browser now. */
    sending,
    error,
    address: search.get('address') ?? '',
    setAddress: (address: string): void => set({ address }),
    arrived,
    send,
    look: (at: PathRequest): void => void api.chooseArrival(at).then(({ id }) => add(id), setError),
    forget: (id: string): void => setIds((known) => known.filter((k) => k !== id)),
  };
}
