import { Body, Controller, HttpCode, Inject, Module, Param, Post, Req } from '@nestjs/common';
import type { Request } from 'express';
import {
  mendRequest,
  forgiveRequest,
  lookReplacementRequest,
  pointRequest,
  rejectRequest,
  replaceRequest,
  searchRequest,
  type AppliedView,
  type ForgiveRequest,
  type MendProjectView,
  type MendRequest,
  type PointedView,
  type PointRequest,
  type LookReplacementRequest,
  type RejectRequest,
  type ReplaceRequest,
  type ReplacementView,
  type SearchRequest,
} from '@rootmap/core/contract';
import { Workbench } from '@rootmap/engine/workbench';
import { whoOf } from '../http/guard.js';
import { JoiPipe } from '../http/joi-pipe.js';

@Controller('api/projects/:key/mend')
export class MendController {
  constructor(@Inject(Workbench) private readonly workbench: Workbench) {}

  /** What is wrong and what explains it. Reads only. */
  @Post('explain')
  @HttpCode(200)
  explain(@Param('key') key: string, @Body(new JoiPipe(searchRequest)) body: SearchRequest): Promise<MendProjectView> {
    return this.workbench.mend(key, body.search);
  }

  /** What would be mended if a layer's data were there. Reads only. */
  @Post('point')
  @HttpCode(200)
  point(@Param('key') key: string, @Body(new JoiPipe(pointRequest)) body: PointRequest): Promise<PointedView> {
    return this.workbench.point(key, body.key, body.target, body.search);
  }

  /** 'Not this one', for good. Writes to the app's own memory only. */
  @Post('reject')
  @HttpCode(204)
  reject(@Param('key') key: string, @Body(new JoiPipe(rejectRequest)) body: RejectRequest & SearchRequest): Promise<void> {
    return this.workbench.rejectCandidate(key, body);
  }

  @Post('forgive')
  @HttpCode(200)
  async forgive(@Body(new JoiPipe(forgiveRequest)) body: ForgiveRequest): Promise<{ forgiven: number }> {
    return { forgiven: await this.workbench.forgiveRejected(body.keys) };
  }

  /** What giving a layer other data on purpose would mean: facts, the fields to map, other layers that could follow. Reads only. */
  @Post('replacement')
  @HttpCode(200)
  replacement(@Param('key') key: string, @Body(new JoiPipe(lookReplacementRequest)) body: LookReplacementRequest): Promise<ReplacementView> {
    return this.workbench.replacement(key, body);
  }

  @Post('replace')
  @HttpCode(200)
  replace(@Param('key') key: string, @Body(new JoiPipe(replaceRequest)) body: ReplaceRequest, @Req() request: Request): Promise<AppliedView> {
    return this.workbench.replaceData(key, body, whoOf(request));
  }

  @Post('apply')
  @HttpCode(200)
  apply(@Param('key') key: string, @Body(new JoiPipe(mendRequest)) body: MendRequest, @Req() request: Request): Promise<AppliedView> {
    return this.workbench.applyMend(key, body, whoOf(request));
  }
}

@Module({ controllers: [MendController] })
export class MendModule {}
