import { Body, Controller, HttpCode, Inject, Module, Param, Post, Req } from '@nestjs/common';
import type { Request } from 'express';
import { pathsRequest, type AppliedView, type PathsRequest } from '@rootmap/core/contract';
import { MendService } from '@rootmap/engine/workbench';
import { whoOf } from '../http/guard.js';
import { JoiPipe } from '../http/joi-pipe.js';

@Controller('api/projects/:key/paths')
class PathsController {
  constructor(@Inject(MendService) private readonly mending: MendService) {}

  /** Shows what switching the stored form would change, or does it. */
  @Post()
  @HttpCode(200)
  async paths(@Param('key') key: string, @Body(new JoiPipe(pathsRequest)) body: PathsRequest, @Req() request: Request) {
    const { changes, kept } = await this.mending.paths(key, body.store, body.map);
    const applied: AppliedView | null = body.apply ? await this.mending.applyPaths(key, body.store, body.map, whoOf(request)) : null;
    return { changes, kept, applied };
  }
}

@Module({ controllers: [PathsController] })
export class PathsModule {}
