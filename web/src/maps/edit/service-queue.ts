/** A browser holds few connections to one server: what a slow service may take of them leaves room for all else. */
const MOST_OF_ONE = 2;
const MOST_OF_ALL = 4;

interface Waiting {
  readonly service: string;
  readonly begin: () => void;
}

/** Requests to services of others, a few at a time of each; what one of them holds up holds up nothing else. */
export class ServiceQueue {
  private readonly running = new Map<string, number>();
  private waiting: Waiting[] = [];

  /** @param begin is given what is to be called once, when it is over */
  run(service: string, begin: (done: () => void) => void): void {
    this.waiting.push({
      service,
      begin: () => {
        let isOver = false;
        begin(() => {
          if (isOver) return;
          isOver = true;
          this.running.set(service, this.of(service) - 1);
          this.next();
        });
      },
    });
    this.next();
  }

  private of(service: string): number {
    return this.running.get(service) ?? 0;
  }

  private next(): void {
    const all = [...this.running.values()].reduce((sum, n) => sum + n, 0);
    if (all >= MOST_OF_ALL) return;
    const at = this.waiting.findIndex((w) => this.of(w.service) < MOST_OF_ONE);
    if (at < 0) return;
    const [chosen] = this.waiting.splice(at, 1);
    this.running.set(chosen!.service, this.of(chosen!.service) + 1);
    chosen!.begin();
    this.next();
  }
}
