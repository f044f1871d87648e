import { useEffect, useState } from 'react';

/** The page was painted once: what stands below the fold, and costs time, comes after. */
export function usePainted(): boolean {
  const [isPainted, setPainted] = useState(false);
  useEffect(() => {
    // The first frame is drawn after this callback, the second one behind it.
    let frame = requestAnimationFrame(() => (frame = requestAnimationFrame(() => setPainted(true))));
    return () => cancelAnimationFrame(frame);
  }, []);
  return isPainted;
}
