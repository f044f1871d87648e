import { useCallback, useLayoutEffect, useRef } from 'react';

/** One function for all renders that calls the one of the last: rows that are remembered need not be drawn again for it. */
export function useStable<A extends unknown[], R>(call: (...args: A) => R): (...args: A) => R {
  const last = useRef(call);
  useLayoutEffect(() => {
    last.current = call;
  });
  return useCallback((...args: A) => last.current(...args), []);
}
