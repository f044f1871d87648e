import { useEffect, useState, type RefObject } from 'react';

/** Heights between which something is drawn; in steps, so that scrolling draws anew now and then only. */
export interface Sight {
  readonly from: number;
  readonly to: number;
}
const STEP = 400;
const BEYOND = 600;
const sightOf = (top: number, height: number): Sight => ({
  from: Math.floor((top - BEYOND) / STEP) * STEP,
  to: Math.ceil((top + height + BEYOND) / STEP) * STEP,
});

/** What of a long page is in sight, and a little more. */
export function useInSight(scroller: RefObject<HTMLElement | null>): Sight {
  const [sight, setSight] = useState<Sight>(() => sightOf(0, 900));
  useEffect(() => {
    const element = scroller.current;
    if (!element) return undefined;
    const look = (): void => {
      const next = sightOf(element.scrollTop, element.clientHeight);
      setSight((before) => (before.from === next.from && before.to === next.to ? before : next));
    };
    look();
    element.addEventListener('scroll', look, { passive: true });
    const sizes = new ResizeObserver(look);
    sizes.observe(element);
    return () => {
      element.removeEventListener('scroll', look);
      sizes.disconnect();
    };
  }, [scroller]);
  return sight;
}
