import { Body, Controller, HttpCode, Inject, Module, Param, Post, Req } from '@nestjs/common';
import type { Request } from 'express';
import { exportRequest, type ExportPreview, type ExportRequest, type JobView } from '@rootmap/core/contract';
import { ExportService } from '@rootmap/engine/workbench';
import { whoOf } from '../http/guard.js';
import { JoiPipe } from '../http/joi-pipe.js';

@Controller('api/projects/:key/exports')
class ExportsController {
  constructor(@Inject(ExportService) private readonly exports: ExportService) {}

  /** Which files would be written, and what they could not hold. */
  @Post('plan')
  @HttpCode(200)
  plan(@Param('key') key: string, @Body(new JoiPipe(exportRequest)) body: ExportRequest): Promise<ExportPreview> {
    return this.exports.preview(key, body);
  }

  @Post()
  @HttpCode(202)
  start(@Param('key') key: string, @Body(new JoiPipe(exportRequest)) body: ExportRequest, @Req() request: Request): Promise<JobView> {
    return this.exports.start(key, body, whoOf(request));
  }
}

@Module({ controllers: [ExportsController] })
export class ExportsModule {}
