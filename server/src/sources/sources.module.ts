import {
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Inject,
  Module,
  Param,
  Post,
  Put,
  Query,
  Req,
  type StreamableFile,
  Res,
} from '@nestjs/common';
import Joi from 'joi';
import type { Request, Response } from 'express';
import {
  copiesRequest,
  intakeRequest,
  originRequest,
  pathRequest,
  type AppliedView,
  type CopiesPreview,
  type CopiesRequest,
  type CrsCandidate,
  type IntakeRequest,
  type IntakeView,
  type JobView,
  type LinkAdvice,
  type OriginRequest,
  type PathRequest,
  objectOf,
} from '@rootmap/core/contract';
import { SourceService } from '@rootmap/engine/workbench';
import { asJson } from '../http/as-json.js';
import { whoOf } from '../http/guard.js';
import { gone } from '../http/gone.js';
import { JoiPipe } from '../http/joi-pipe.js';

interface UploadQuery {
  readonly drop: string;
  readonly path: string;
  /** When the file was changed last, in milliseconds, as the browser tells it. */
  readonly modified?: number;
}
const uploadQuery = objectOf<UploadQuery>({
  drop: Joi.string().uuid().required(),
  path: Joi.string().max(1000).required(),
  modified: Joi.number().integer().min(0),
});

const datasetQuery = objectOf<{ dataset: string }>({ dataset: Joi.string().max(8192).required() });

@Controller('api')
class SourcesController {
  constructor(@Inject(SourceService) private readonly sources: SourceService) {}

  /** One dropped file, its bytes as the body: streamed to the disk as they come. */
  @Put('arrivals')
  upload(@Query(new JoiPipe(uploadQuery)) query: UploadQuery, @Req() request: Request): Promise<{ id: string }> {
    return this.sources.upload(query.drop, query.path, query.modified ?? null, request);
  }

  /** An archive that stands in a place. */
  @Post('arrivals')
  choose(@Body(new JoiPipe(pathRequest)) body: PathRequest): Promise<{ id: string }> {
    return this.sources.choose(body);
  }

  @Delete('arrivals/:id')
  @HttpCode(204)
  forget(@Param('id') id: string): void {
    this.sources.forget(id);
  }

  /** A companion that stands elsewhere comes along with dropped files that lack it. */
  @Post('arrivals/:id/companions')
  @HttpCode(204)
  pair(@Param('id') id: string, @Body(new JoiPipe(pathRequest)) body: PathRequest): void {
    this.sources.pair(id, body);
  }

  @Get('projects/:key/arrivals/:id')
  look(@Param('key') key: string, @Param('id') id: string): Promise<IntakeView> {
    return this.sources.look(key, id);
  }

  @Post('projects/:key/arrivals/:id')
  @HttpCode(202)
  bringIn(
    @Param('key') key: string,
    @Param('id') id: string,
    @Body(new JoiPipe(intakeRequest)) body: IntakeRequest,
    @Req() request: Request,
  ): Promise<JobView> {
    return this.sources.startIntake(key, id, body, whoOf(request));
  }

  @Get('projects/:key/sources')
  async view(@Param('key') key: string, @Res({ passthrough: true }) response: Response): Promise<StreamableFile> {
    return asJson(await this.sources.view(key, gone(response)));
  }

  /** Writes down where datasets came from. */
  @Post('projects/:key/origins')
  @HttpCode(200)
  origin(@Param('key') key: string, @Body(new JoiPipe(originRequest)) body: OriginRequest, @Req() request: Request): Promise<AppliedView> {
    return this.sources.writeOrigin(key, body, whoOf(request));
  }

  /** CRSs that a dataset without one could be in. */
  @Get('projects/:key/crs-candidates')
  candidates(@Param('key') key: string, @Query(new JoiPipe(datasetQuery)) query: { dataset: string }): Promise<readonly CrsCandidate[]> {
    return this.sources.rankCrs(key, query.dataset);
  }

  /** Which copies in another CRS would be made. */
  @Post('projects/:key/copies/plan')
  @HttpCode(200)
  planCopies(@Param('key') key: string, @Body(new JoiPipe(copiesRequest)) body: CopiesRequest): Promise<CopiesPreview> {
    return this.sources.copiesPreview(key, body);
  }

  @Post('projects/:key/copies')
  @HttpCode(202)
  copies(@Param('key') key: string, @Body(new JoiPipe(copiesRequest)) body: CopiesRequest, @Req() request: Request): Promise<JobView> {
    return this.sources.startCopies(key, body, whoOf(request));
  }

  /** What linking a folder would cost, and what would serve better. */
  @Get('projects/:key/link-advice')
  advice(@Param('key') key: string, @Query(new JoiPipe(pathRequest)) query: PathRequest): Promise<LinkAdvice> {
    return this.sources.adviseLink(key, query);
  }
}

@Module({ controllers: [SourcesController] })
export class SourcesModule {}
