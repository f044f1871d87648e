import { useEffect, useRef, type RefObject } from 'react';

/** What was given at the last rendering, for what is called later: timers, listeners, other libraries. */
export function useLatest<T>(value: T): RefObject<T> {
  const latest = useRef(value);
  useEffect(() => {
    latest.current = value;
  });
  return latest;
}
