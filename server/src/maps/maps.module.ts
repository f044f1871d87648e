import { Body, Controller, Delete, Get, HttpCode, Inject, Module, Param, Post, Query, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import Joi from 'joi';
import {
  crsAdviceRequest,
  datasetsRequest,
  keepDraftRequest,
  mapFromTableRequest,
  saveMapRequest,
  type CrsAdvice,
  type CrsAdviceRequest,
  type DatasetsRequest,
  type JobView,
  type KeepDraftRequest,
  type KeptView,
  type MapDocView,
  type MapFromTableRequest,
  type MapFromTableView,
  type NewLayerView,
  type SaveMapRequest,
} from '@rootmap/core/contract';
import { Workbench } from '@rootmap/engine/workbench';
import { whoOf } from '../http/guard.js';
import { JoiPipe } from '../http/joi-pipe.js';

interface MapQuery {
  readonly path: string;
  readonly editor: string;
}
const path = Joi.string().max(4096).required();
const mapQuery = Joi.object<MapQuery>({ path, editor: Joi.string().guid().required() });
const pictureQuery = Joi.object<{ path: string; of?: string }>({ path, of: Joi.string().max(80) });

@Controller('api/projects/:key/maps')
export class MapsController {
  constructor(@Inject(Workbench) private readonly workbench: Workbench) {}

  /** A map as it is edited, with what is known of the data of each layer, and unsaved work that was kept. */
  @Get('doc')
  doc(@Param('key') key: string, @Query(new JoiPipe(mapQuery)) { path, editor }: MapQuery): Promise<MapDocView> {
    return this.workbench.maps.doc(key, path, editor);
  }

  /** Keeps unsaved work, and tells of others who have the map open. */
  @Post('draft')
  @HttpCode(200)
  keep(@Param('key') key: string, @Body(new JoiPipe(keepDraftRequest)) body: KeepDraftRequest, @Req() request: Request): Promise<KeptView> {
    return this.workbench.maps.keep(key, body, whoOf(request));
  }

  /** Unsaved work is given up. */
  @Delete('draft')
  @HttpCode(204)
  drop(@Param('key') key: string, @Query(new JoiPipe(mapQuery)) { path, editor }: MapQuery): Promise<void> {
    return this.workbench.maps.drop(key, path, editor);
  }

  /** Saves a draft to its file; a job, since data that is not known is read. */
  @Post('save')
  @HttpCode(200)
  save(@Param('key') key: string, @Body(new JoiPipe(saveMapRequest)) body: SaveMapRequest, @Req() request: Request): Promise<JobView> {
    return this.workbench.maps.save(key, body, whoOf(request));
  }

  /** A small picture of a map, made when it was saved. */
  @Get('picture')
  async picture(
    @Param('key') key: string,
    @Query(new JoiPipe(pictureQuery)) query: { path: string },
    @Res() response: Response,
  ): Promise<void> {
    const png = await this.workbench.maps.picture(key, query.path);
    if (png) response.type('image/png').set('Cache-Control', 'private, max-age=3600').send(Buffer.from(png));
    else response.status(204).end();
  }

  /** What layers of some datasets would be in a map. */
  @Post('new-layers')
  @HttpCode(200)
  newLayers(@Param('key') key: string, @Body(new JoiPipe(datasetsRequest)) body: DatasetsRequest): Promise<readonly NewLayerView[]> {
    return this.workbench.maps.newLayers(key, body.path, body.datasets);
  }

  /** What a map of some datasets could be drawn in, and how much each distorts. */
  @Post('crs-advice')
  @HttpCode(200)
  crsAdvice(@Param('key') key: string, @Body(new JoiPipe(crsAdviceRequest)) body: CrsAdviceRequest): Promise<CrsAdvice> {
    return this.workbench.maps.crsAdvice(key, body.datasets);
  }

  /** A map of what a table of layers names: shown, or made. */
  @Post('from-table')
  @HttpCode(200)
  fromTable(
    @Param('key') key: string,
    @Body(new JoiPipe(mapFromTableRequest)) body: MapFromTableRequest,
    @Req() request: Request,
  ): Promise<MapFromTableView> {
    return this.workbench.maps.fromTable(key, body, whoOf(request));
  }
}

@Module({ controllers: [MapsController] })
export class MapsModule {}
