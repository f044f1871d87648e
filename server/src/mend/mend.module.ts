import { Body, Controller, Get, HttpCode, Inject, Module, Param, Post, Req, Res, type StreamableFile } from '@nestjs/common';
import type { Request, Response } from 'express';
import {
  deletionRequest,
  droppedMapRequest,
  keepMapRequest,
  mendRequest,
  pathRequest,
  forgiveRequest,
  lookReplacementRequest,
  pointRequest,
  rejectRequest,
  replaceRequest,
  searchRequest,
  type AppliedView,
  type ForgiveRequest,
  type DeletionRequest,
  type DeletionView,
  type DroppedMapRequest,
  type KeepMapRequest,
  type LoneMapView,
  type MendRequest,
  type PathRequest,
  type StrayMapsView,
  type PointedView,
  type PointRequest,
  type LookReplacementRequest,
  type RejectRequest,
  type ReplaceRequest,
  type ReplacementView,
  type SearchRequest,
} from '@rootmap/core/contract';
import { ChangeService, LoneMapService, MendService } from '@rootmap/engine/workbench';
import { asJson } from '../http/as-json.js';
import { gone } from '../http/gone.js';
import { whoOf } from '../http/guard.js';
import { JoiPipe } from '../http/joi-pipe.js';

@Controller('api/projects/:key/mend')
class MendController {
  constructor(
    @Inject(ChangeService) private readonly changes: ChangeService,
    @Inject(MendService) private readonly mending: MendService,
  ) {}

  /** What is wrong and what explains it. Reads only. */
  @Post('explain')
  @HttpCode(200)
  async explain(
    @Param('key') key: string,
    @Body(new JoiPipe(searchRequest)) body: SearchRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return asJson(await this.mending.view(key, body, gone(response)));
  }

  /** The layers of a page that an answer of `explain` names. */
  @Get('pages/:id')
  page(@Param('id') id: string): StreamableFile {
    return asJson(this.mending.page(id));
  }

  /** The change by which what stood at a path was deleted; `change` null: none that is known. */
  @Post('deletion')
  @HttpCode(200)
  async deletion(@Body(new JoiPipe(deletionRequest)) body: DeletionRequest): Promise<{ change: DeletionView | null }> {
    return { change: await this.changes.deletionOf(body.path) };
  }

  /** What would be mended if a layer's data were there. Reads only. */
  @Post('point')
  @HttpCode(200)
  point(@Param('key') key: string, @Body(new JoiPipe(pointRequest)) body: PointRequest): Promise<PointedView> {
    return this.mending.point(key, body);
  }

  /** 'Not this one', for good. Writes to the app's own memory only. */
  @Post('reject')
  @HttpCode(204)
  reject(@Param('key') key: string, @Body(new JoiPipe(rejectRequest)) body: RejectRequest & SearchRequest): Promise<void> {
    return this.mending.reject(key, body);
  }

  @Post('forgive')
  @HttpCode(200)
  async forgive(@Body(new JoiPipe(forgiveRequest)) body: ForgiveRequest): Promise<{ forgiven: number }> {
    return { forgiven: await this.mending.forgive(body.keys) };
  }

  /** What giving a layer other data on purpose would mean: facts, the fields to map, other layers that could follow. Reads only. */
  @Post('replacement')
  @HttpCode(200)
  replacement(
    @Param('key') key: string,
    @Body(new JoiPipe(lookReplacementRequest)) body: LookReplacementRequest,
  ): Promise<ReplacementView> {
    return this.mending.replacement(key, body);
  }

  @Post('replace')
  @HttpCode(200)
  replace(
    @Param('key') key: string,
    @Body(new JoiPipe(replaceRequest)) body: ReplaceRequest,
    @Req() request: Request,
  ): Promise<AppliedView> {
    return this.mending.replaceData(key, body, whoOf(request));
  }

  @Post('apply')
  @HttpCode(200)
  apply(@Param('key') key: string, @Body(new JoiPipe(mendRequest)) body: MendRequest, @Req() request: Request): Promise<AppliedView> {
    return this.mending.apply(key, body, whoOf(request));
  }
}

/** Maps that are mended by themselves: in no project, or dropped on the page. */
@Controller('api/lone-maps')
class LoneMapsController {
  constructor(@Inject(LoneMapService) private readonly loneMaps: LoneMapService) {}

  /** Opens one map; its key stands where that of a project does in the addresses of mending. */
  @Post()
  @HttpCode(200)
  open(@Body(new JoiPipe(pathRequest)) body: PathRequest): Promise<LoneMapView> {
    return this.loneMaps.openMap(body);
  }

  /** Maps in the places that belong to no project. */
  @Get()
  stray(@Res({ passthrough: true }) response: Response): Promise<StrayMapsView> {
    return this.loneMaps.stray(gone(response));
  }

  /** Where a map file that was dropped lies. Reads only. */
  @Post('find')
  @HttpCode(200)
  find(@Body(new JoiPipe(droppedMapRequest)) body: DroppedMapRequest): Promise<PathRequest[]> {
    return this.loneMaps.find(body);
  }

  /** Puts a dropped map that lies nowhere within reach into a folder. */
  @Post('keep')
  @HttpCode(200)
  keep(@Body(new JoiPipe(keepMapRequest)) body: KeepMapRequest, @Req() request: Request): Promise<LoneMapView> {
    return this.loneMaps.keep(body, whoOf(request));
  }
}

@Module({ controllers: [MendController, LoneMapsController] })
export class MendModule {}
