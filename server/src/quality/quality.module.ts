import { Body, Controller, Get, HttpCode, Inject, Module, Param, Post, Put, Query, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import {
  qualityCheckRequest,
  qualitySheetQuery,
  reviewRequest,
  type AppliedView,
  type JobView,
  type QualityCheckRequest,
  type QualitySheetView,
  type QualityView,
  type ReviewRequest,
  qualityReportQuery,
  type QualityReportQuery,
  compareEditionsRequest,
  type CompareEditionsRequest,
} from '@rootmap/core/contract';
import type { RecordComparison } from '@rootmap/core';
import { QualityService } from '@rootmap/engine/workbench';
import { gone } from '../http/gone.js';
import { whoOf } from '../http/guard.js';
import { JoiPipe } from '../http/joi-pipe.js';

const TYPES = { html: 'text/html', csv: 'text/csv', json: 'application/json', pdf: 'application/pdf' } as const;

@Controller('api/projects/:key/quality')
class QualityController {
  constructor(@Inject(QualityService) private readonly quality: QualityService) {}

  /** What is known of every dataset; nothing is computed. */
  @Get()
  view(@Param('key') key: string): Promise<QualityView> {
    return this.quality.view(key);
  }

  /** The sheet of one dataset. */
  @Get('sheet')
  sheet(@Param('key') key: string, @Query(new JoiPipe(qualitySheetQuery)) { dataset }: { dataset: string }): Promise<QualitySheetView> {
    return this.quality.sheet(key, dataset);
  }

  /** What became of the records of one dataset in another. */
  @Post('compare')
  @HttpCode(200)
  compare(
    @Param('key') key: string,
    @Body(new JoiPipe(compareEditionsRequest)) body: CompareEditionsRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<RecordComparison> {
    return this.quality.compare(key, body, gone(response));
  }

  /** All sheets, or one, as a file to be handed on. */
  @Get('report')
  async report(
    @Param('key') key: string,
    @Query(new JoiPipe(qualityReportQuery)) query: QualityReportQuery,
    @Res() response: Response,
  ): Promise<void> {
    const bytes = await this.quality.report(key, query);
    response.setHeader('content-disposition', `attachment; filename="quality.${query.format}"`);
    response.type(TYPES[query.format]).send(Buffer.from(bytes));
  }

  /** Computes what is not known yet, and writes it into sheets beside the data. */
  @Post('check')
  @HttpCode(202)
  check(
    @Param('key') key: string,
    @Body(new JoiPipe(qualityCheckRequest)) body: QualityCheckRequest,
    @Req() request: Request,
  ): Promise<JobView> {
    return this.quality.start(key, body, whoOf(request));
  }

  /** A reviewer's word, signed with what the data holds now. */
  @Put('review')
  @HttpCode(200)
  review(@Param('key') key: string, @Body(new JoiPipe(reviewRequest)) body: ReviewRequest, @Req() request: Request): Promise<AppliedView> {
    return this.quality.review(key, body, whoOf(request));
  }
}

@Module({ controllers: [QualityController] })
export class QualityModule {}
