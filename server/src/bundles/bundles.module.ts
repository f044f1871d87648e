import { Body, Controller, Get, HttpCode, Inject, Module, Param, Post, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import {
  bundleRequest,
  editionRequest,
  takeOverRequest,
  type BundleRequest,
  type BundleView,
  type EditionRequest,
  type EditionView,
  type TakeOverRequest,
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

  /** What a bundle says of itself; nothing of it is unpacked. */
  @Post('receive/look')
  @HttpCode(200)
  look(
    @Body(new JoiPipe(bundleRequest)) body: BundleRequest,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<BundleView> {
    return this.bundles.look(body, whoOf(request), gone(response));
  }

  /** A bundle against the project here that it is an edition of, file by file. */
  @Post('receive/compare')
  @HttpCode(200)
  compare(
    @Body(new JoiPipe(editionRequest)) body: EditionRequest,
    @Req() request: Request,
    @Res({ passthrough: true }) response: Response,
  ): Promise<EditionView> {
    return this.bundles.compare(body, whoOf(request), gone(response));
  }

  @Post('receive/take-over')
  @HttpCode(202)
  takeOver(@Body(new JoiPipe(takeOverRequest)) body: TakeOverRequest, @Req() request: Request): Promise<JobView> {
    return this.bundles.startTakeOver(body, whoOf(request));
  }

  @Post('receive')
  @HttpCode(202)
  receive(@Body(new JoiPipe(receiveRequest)) body: ReceiveRequest, @Req() request: Request): JobView {
    return this.bundles.startReceive(body, whoOf(request));
  }
}

@Module({ controllers: [BundlesController] })
export class BundlesModule {}
