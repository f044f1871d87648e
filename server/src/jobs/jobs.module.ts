import { Controller, Get, HttpCode, Inject, Module, Param, Post, Sse, type MessageEvent } from '@nestjs/common';
import { interval, map, merge, type Observable } from 'rxjs';
import type { JobView } from '@rootmap/core/contract';
import { Jobs } from '@rootmap/engine/workbench';
import { Events } from '../http/events.js';

const HEARTBEAT_MS = 25_000;

@Controller('api')
class JobsController {
  constructor(
    @Inject(Jobs) private readonly jobs: Jobs,
    @Inject(Events) private readonly events: Events,
  ) {}

  @Get('jobs')
  list(): JobView[] {
    return this.jobs.list();
  }

  @Post('jobs/:id/cancel')
  @HttpCode(204)
  cancel(@Param('id') id: string): void {
    this.jobs.cancel(id);
  }

  /** The one event stream; a heartbeat keeps connections that are silent. */
  @Sse('events')
  stream(): Observable<MessageEvent> {
    return merge(
      this.events.listen().pipe(map((event): MessageEvent => ({ data: event }))),
      interval(HEARTBEAT_MS).pipe(map((): MessageEvent => ({ type: 'heartbeat', data: '' }))),
    );
  }
}

@Module({ controllers: [JobsController] })
export class JobsModule {}
