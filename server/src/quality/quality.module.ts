import { Body, Controller, Delete, Get, HttpCode, Inject, Module, Param, Post, Put, Query, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import {
  qualityCheckRequest,
  qualitySheetQuery,
  reviewRequest,
  reviewTemplate,
  type KeptReviewTemplate,
  type ReviewTemplate,
  type AppliedView,
  type JobView,
  type QualityCheckRequest,
  type QualitySheetView,
  type QualityView,
  type ReviewRequest,
  qualityReportQuery,
  type QualityReportQuery,
  compareEditionsRequest,
  matchPointsRequest,
  type MatchPointsRequest,
  type CompareEditionsRequest,
} from '@rootmap/core/contract';
import type { MatchedPoints, RecordComparison } from '@rootmap/core';
import { QualityService, ReviewTemplateRepository } from '@rootmap/engine/workbench';
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

  /** Codes that are expected in the fields of a dataset, by field. */
  @Get('codes')
  codes(
    @Param('key') key: string,
    @Query(new JoiPipe(qualitySheetQuery)) { dataset }: { dataset: string },
  ): Promise<Readonly<Record<string, readonly string[]>>> {
    return this.quality.codes(key, dataset);
  }

  /** Check points of a dataset, found in a better source. */
  @Post('match-points')
  @HttpCode(200)
  matchPoints(
    @Param('key') key: string,
    @Body(new JoiPipe(matchPointsRequest)) body: MatchPointsRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<MatchedPoints> {
    return this.quality.matchPoints(key, body, gone(response));
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

/** What a team says in reviews again and again. */
@Controller('api/review-templates')
class ReviewTemplatesController {
  constructor(@Inject(ReviewTemplateRepository) private readonly templates: ReviewTemplateRepository) {}

  @Get()
  list(): Promise<KeptReviewTemplate[]> {
    return this.templates.list();
  }

  /** Keeps a template; one of the same title is replaced. */
  @Post()
  @HttpCode(200)
  save(@Body(new JoiPipe(reviewTemplate)) body: ReviewTemplate): Promise<KeptReviewTemplate[]> {
    return this.templates.save(body);
  }

  @Delete(':id')
  @HttpCode(200)
  remove(@Param('id') id: string): Promise<KeptReviewTemplate[]> {
    return this.templates.remove(id);
  }
}

@Module({ controllers: [QualityController, ReviewTemplatesController] })
export class QualityModule {}
