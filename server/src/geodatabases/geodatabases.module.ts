import { Body, Controller, Get, HttpCode, Inject, Module, Param, Post, Query, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import {
  importRequest,
  newGeodatabaseBody,
  pathRequest,
  type AppliedView,
  type GeodatabaseFinding,
  type GeodatabasesView,
  type ImportPreview,
  type ImportRequest,
  type JobView,
  type NewGeodatabaseBody,
  type PathRequest,
} from '@rootmap/core/contract';
import { GeodatabaseService } from '@rootmap/engine/workbench';
import { whoOf } from '../http/guard.js';
import { gone } from '../http/gone.js';
import { JoiPipe } from '../http/joi-pipe.js';

@Controller('api/projects/:key/geodatabases')
class GeodatabasesController {
  constructor(@Inject(GeodatabaseService) private readonly geodatabases: GeodatabaseService) {}

  @Get()
  view(@Param('key') key: string, @Res({ passthrough: true }) response: Response): Promise<GeodatabasesView> {
    return this.geodatabases.view(key, gone(response));
  }

  /** An empty geodatabase. */
  @Post()
  create(
    @Param('key') key: string,
    @Body(new JoiPipe(newGeodatabaseBody)) body: NewGeodatabaseBody,
    @Req() request: Request,
  ): Promise<AppliedView> {
    return this.geodatabases.create(key, body.at, body.crs, whoOf(request));
  }

  /** What would become of each dataset. */
  @Post('import/plan')
  @HttpCode(200)
  plan(@Param('key') key: string, @Body(new JoiPipe(importRequest)) body: ImportRequest): Promise<ImportPreview> {
    return this.geodatabases.preview(key, body);
  }

  @Post('import')
  @HttpCode(202)
  import(@Param('key') key: string, @Body(new JoiPipe(importRequest)) body: ImportRequest, @Req() request: Request): Promise<JobView> {
    return this.geodatabases.startImport(key, body, whoOf(request));
  }

  /** Held against the standard. */
  @Get('check')
  check(@Param('key') key: string, @Query(new JoiPipe(pathRequest)) query: PathRequest): Promise<readonly GeodatabaseFinding[]> {
    return this.geodatabases.check(key, query);
  }
}

@Module({ controllers: [GeodatabasesController] })
export class GeodatabasesModule {}
