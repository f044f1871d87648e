import { useState } from 'react';

/** Things that are ticked, or left out, one by one. */
export function useToggled(initial: () => Iterable<string> = () => []): [ReadonlySet<string>, (item: string) => void] {
  const [items, setItems] = useState<ReadonlySet<string>>(() => new Set(initial()));
  const flip = (item: string): void =>
    setItems((before) => {
      const now = new Set(before);
      if (!now.delete(item)) now.add(item);
      return now;
    });
  return [items, flip];
}
