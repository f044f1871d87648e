import { Injectable } from '@nestjs/common';
import { concat, defer, from, Subject, type Observable } from 'rxjs';
import type { ServerEvent } from '@rootmap/core/contract';

/** A page asks before it listens: what happens between the two is told again to whoever begins to listen within this time. */
const REPLAYED_MS = 10_000;

interface Told {
  readonly ms: number;
  readonly event: ServerEvent;
}

/** Something is not as it was: told twice, it is asked for twice and nothing else comes of it. */
const isRepeatable = ({ type }: ServerEvent): boolean => type !== 'job' && type !== 'search';

/** What happens on the server, for whoever listens. */
@Injectable()
export class Events {
  private readonly stream = new Subject<ServerEvent>();
  /** By what each says, the last of its kind. */
  private readonly recent = new Map<string, Told>();

  publish(event: ServerEvent): void {
    if (isRepeatable(event)) {
      const ms = performance.now();
      for (const [text, told] of this.recent) if (ms - told.ms > REPLAYED_MS) this.recent.delete(text);
      this.recent.set(JSON.stringify(event), { ms, event });
    }
    this.stream.next(event);
  }

  /** What happened a moment ago, and then everything that happens. */
  listen(): Observable<ServerEvent> {
    const missed = defer(() => {
      const now = performance.now();
      return from([...this.recent.values()].filter((t) => now - t.ms <= REPLAYED_MS).map((t) => t.event));
    });
    return concat(missed, this.stream);
  }
}
