/** A binary heap: the greatest comes out first. */
export class Heap<T> {
  private readonly items: T[] = [];

  /** @param compare positive where the first is greater */
  constructor(private readonly compare: (a: T, b: T) => number) {}

  push(item: T): void {
    const { items, compare } = this;
    let at = items.push(item) - 1;
    while (at > 0) {
      const above = (at - 1) >> 1;
      if (compare(items[at]!, items[above]!) <= 0) return;
      [items[at], items[above]] = [items[above]!, items[at]!];
      at = above;
    }
  }

  pop(): T | undefined {
    const { items, compare } = this;
    const greatest = items[0];
    const last = items.pop();
    if (items.length === 0 || last === undefined) return greatest;
    items[0] = last;
    for (let at = 0; ;) {
      const [left, right] = [2 * at + 1, 2 * at + 2];
      let top = at;
      if (left < items.length && compare(items[left]!, items[top]!) > 0) top = left;
      if (right < items.length && compare(items[right]!, items[top]!) > 0) top = right;
      if (top === at) return greatest;
      [items[at], items[top]] = [items[top]!, items[at]!];
      at = top;
    }
  }
}
