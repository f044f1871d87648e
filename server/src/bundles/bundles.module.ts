import { Body, Controller, Get, HttpCode, Inject, Module, Param, Post, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import {
  packRequest,
  receiveRequest,
  sendRequest,
  type JobView,
  type PackPreview,
  type PackRequest,
  type ReceiveRequest,
  type SendMemory,
  type SendRequest,
} from '@rootmap/core/contract';
import { BundleService } from '@rootmap/engine/workbench';
import { whoOf } from '../http/guard.js';
import { gone } from '../http/gone.js';
import { JoiPipe } from '../http/joi-pipe.js';

@Controller('api')
class BundlesController {
  constructor(@Inject(BundleService) private readonly bundles: BundleService) {}

  @Get('projects/:key/bundle')
  memory(@Param('key') key: string): Promise<SendMemory> {
    return this.bundles.memory(key);
  }

  /** What a bundle would hold; writes nothing. */
  @Post('projects/:key/bundle/plan')
  @HttpCode(200)
  preview(
    @Param('key') key: string,
    @Body(new JoiPipe(sendRequest)) body: SendRequest,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<PackPreview> {
    return this.bundles.preview(key, body, whoOf(request), gone(response));
  }

  @Post('projects/:key/bundle')
  @HttpCode(202)
  pack(@Param('key') key: string, @Body(new JoiPipe(packRequest)) body: PackRequest, @Req() request: Request): Promise<JobView> {
    return this.bundles.startPack(key, body, whoOf(request));
  }

  @Post('receive')
  @HttpCode(202)
  receive(@Body(new JoiPipe(receiveRequest)) body: ReceiveRequest, @Req() request: Request): JobView {
    return this.bundles.startReceive(body.bundle, body.into, whoOf(request));
  }
}

@Module({ controllers: [BundlesController] })
export class BundlesModule {}
