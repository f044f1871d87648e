import { Body, Controller, Get, HttpCode, Inject, Module, Param, Post, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import { packRequest, receiveRequest, type JobView, type PackPreview, type PackRequest, type ReceiveRequest } from '@rootmap/core/contract';
import { BundleService } from '@rootmap/engine/workbench';
import { whoOf } from '../http/guard.js';
import { gone } from '../http/gone.js';
import { JoiPipe } from '../http/joi-pipe.js';

@Controller('api')
class BundlesController {
  constructor(@Inject(BundleService) private readonly bundles: BundleService) {}

  @Get('projects/:key/bundle')
  preview(@Param('key') key: string, @Res({ passthrough: true }) response: Response): Promise<PackPreview> {
    return this.bundles.preview(key, gone(response));
  }

  @Post('projects/:key/bundle')
  @HttpCode(202)
  pack(@Param('key') key: string, @Body(new JoiPipe(packRequest)) body: PackRequest, @Req() request: Request): Promise<JobView> {
    return this.bundles.startPack(key, body.out, whoOf(request));
  }

  @Post('receive')
  @HttpCode(202)
  receive(@Body(new JoiPipe(receiveRequest)) body: ReceiveRequest, @Req() request: Request): JobView {
    return this.bundles.startReceive(body.bundle, body.into, whoOf(request));
  }
}

@Module({ controllers: [BundlesController] })
export class BundlesModule {}
