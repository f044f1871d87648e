import { isInside } from './native-path.js';

/** Where a process may open things. */
export interface Bounds {
  /** Real paths of the folders that people may have opened and changed. */
  readonly places: readonly string[];
  /** Folders of the program's own (data, cache, what is unpacked for a look): no place reaches into them. */
  readonly own: readonly string[];
}

let ask: () => Bounds | null = () => null;

/** `null` from it: everywhere, as on the command line, where a person's own rights are the bounds. */
export const setBounds = (to: () => Bounds | null): void => void (ask = to);
export const currentBounds = (): Bounds | null => ask();

/**
 * Looks at a folder that is in no place, while `use` runs and not longer: it must not wait for anything. For the question whether
 * a drive is one that is known, which no request names.
 */
export function alsoWithin<T>(folder: string, use: () => T): T {
  const before = ask;
  ask = () => {
    const bounds = before();
    return bounds && { ...bounds, places: [...bounds.places, folder] };
  };
  try {
    return use();
  } finally {
    ask = before;
  }
}

/** Nothing is to be checked: there are no bounds, or the path is the program's own, which no request names. */
export function isFree(path: string): boolean {
  const bounds = ask();
  return bounds === null || bounds.own.some((own) => isInside(own, path));
}

/** Throws an error like the system's, code `EOUTSIDE`, where something that is open, or is about to be, stands outside. */
export function assertWithin(real: string, path: string): void {
  const bounds = ask();
  if (!bounds) return;
  const isWithin = bounds.places.some((place) => isInside(place, real)) && !bounds.own.some((own) => isInside(own, real));
  if (!isWithin) throw systemError('EOUTSIDE', 'open', path);
}

/** An error as the system makes them, for what the system would have allowed. */
export const systemError = (code: string, syscall: string, path: string): NodeJS.ErrnoException =>
  Object.assign(new Error(`${code}: ${syscall} '${path}'`), { code, syscall, path });
