import { Injectable } from '@nestjs/common';
import { Subject } from 'rxjs';
import type { ServerEvent } from '@rootmap/core/contract';

/** What happens on the server, for whoever listens. */
@Injectable()
export class Events {
  readonly stream = new Subject<ServerEvent>();
  publish(event: ServerEvent): void {
    this.stream.next(event);
  }
}
