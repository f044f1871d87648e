import { Body, Controller, Delete, Get, HttpCode, Inject, Module, Param, Post, Put, Query, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import Joi from 'joi';
import {
  crsAdviceRequest,
  datasetsRequest,
  digitiseRequest,
  editableRequest,
  keepDraftRequest,
  mapFromTableRequest,
  pathRequest,
  rehearsalRequest,
  saveMapRequest,
  type AppliedView,
  type CrsAdvice,
  type CrsAdviceRequest,
  type DatasetsRequest,
  type DigitisedView,
  type DigitiseRequest,
  type EditableRequest,
  type EditableView,
  type JobView,
  type KeepDraftRequest,
  type KeptView,
  type MapCrsView,
  type MapDocView,
  type MapFromTableRequest,
  type MapFromTableView,
  type NewLayerView,
  type OutsideView,
  type PathRequest,
  type RehearsalRequest,
  type RehearsalView,
  type SaveMapRequest,
  epsgCode,
  objectOf,
} from '@rootmap/core/contract';
import { MapService } from '@rootmap/engine/workbench';
import { gone } from '../http/gone.js';
import { whoOf } from '../http/guard.js';
import { JoiPipe } from '../http/joi-pipe.js';

interface MapQuery {
  readonly path: string;
  readonly editor: string;
}
interface PrintQuery {
  readonly place: string;
  readonly path: string;
  readonly title: string;
}
interface NewMapRequest {
  readonly title: string;
  readonly storedForm: 'relative' | 'absolute' | null;
}
interface StyleQuery {
  readonly path: string;
  readonly layer: string;
  readonly href: string;
}
const path = Joi.string().max(4096).required();
const mapQuery = objectOf<MapQuery>({ path, editor: Joi.string().guid().required() });
/** A picture of the project must not be able to run anything. */
const NOTHING_RUNS = "default-src 'none'; style-src 'unsafe-inline'; img-src data:";
const pictureQuery = objectOf<{ path: string; of?: string }>({ path, of: Joi.string().max(80) });

const newMapRequest = objectOf<NewMapRequest>({
  title: Joi.string().trim().min(1).max(200).required(),
  storedForm: Joi.string().valid('relative', 'absolute').allow(null).default(null),
});
const printQuery = objectOf<PrintQuery>({ place: Joi.string().max(80).required(), path, title: Joi.string().max(400).required() });
/** `without`: titles, one a line. */
interface PageQuery {
  readonly path: string;
  readonly base: string;
  readonly without: string;
}
const pageQuery = objectOf<PageQuery>({
  path,
  base: Joi.string().hex().max(64).required(),
  without: Joi.string().max(2000).allow('').default(''),
});
const crsQuery = objectOf<{ code: string }>({ code: epsgCode.required() });
const styleQuery = objectOf<StyleQuery>({ path, layer: Joi.string().max(2000).required(), href: Joi.string().max(4096).required() });

@Controller('api/projects/:key/maps')
class MapsController {
  constructor(@Inject(MapService) private readonly maps: MapService) {}

  /** A map as it is edited, with what is known of the data of each layer, and unsaved work that was kept. */
  @Get('doc')
  doc(@Param('key') key: string, @Query(new JoiPipe(mapQuery)) { path, editor }: MapQuery): Promise<MapDocView> {
    return this.maps.doc(key, path, editor);
  }

  /** Keeps unsaved work, and tells of others who have the map open. */
  @Post('draft')
  @HttpCode(200)
  keep(@Param('key') key: string, @Body(new JoiPipe(keepDraftRequest)) body: KeepDraftRequest, @Req() request: Request): Promise<KeptView> {
    return this.maps.keep(key, body, whoOf(request));
  }

  /** Unsaved work is given up. */
  @Delete('draft')
  @HttpCode(204)
  drop(@Param('key') key: string, @Query(new JoiPipe(mapQuery)) { path, editor }: MapQuery): Promise<void> {
    return this.maps.drop(key, path, editor);
  }

  /** Saves a draft to its file; a job, since data that is not known is read. */
  @Post('save')
  @HttpCode(200)
  save(@Param('key') key: string, @Body(new JoiPipe(saveMapRequest)) body: SaveMapRequest, @Req() request: Request): Promise<JobView> {
    return this.maps.save(key, body, whoOf(request));
  }

  /** A small picture of a map; `of` tells apart the states of it that a browser has seen. */
  @Get('picture')
  async picture(
    @Param('key') key: string,
    @Query(new JoiPipe(pictureQuery)) query: { path: string },
    @Res() response: Response,
  ): Promise<void> {
    const picture = await this.maps.picture(key, query.path, gone(response));
    if (picture)
      response
        .type(picture.type)
        .set('Content-Security-Policy', NOTHING_RUNS)
        .set('Cache-Control', 'private, max-age=3600')
        .send(Buffer.from(picture.bytes));
    else response.status(204).end();
  }

  /** A picture that the style of a layer names. */
  @Get('style-picture')
  async stylePicture(
    @Param('key') key: string,
    @Query(new JoiPipe(styleQuery)) query: StyleQuery,
    @Res() response: Response,
  ): Promise<void> {
    const picture = await this.maps.stylePicture(key, query.path, query.layer, query.href);
    response.type(picture.type).set('Content-Security-Policy', NOTHING_RUNS).send(Buffer.from(picture.bytes));
  }

  /** What layers of some datasets would be in a map. */
  @Post('new-layers')
  @HttpCode(200)
  newLayers(@Param('key') key: string, @Body(new JoiPipe(datasetsRequest)) body: DatasetsRequest): Promise<readonly NewLayerView[]> {
    return this.maps.newLayers(key, body.path, body.datasets);
  }

  /** What a map of some datasets could be drawn in, and how much each distorts. */
  @Post('crs-advice')
  @HttpCode(200)
  crsAdvice(@Param('key') key: string, @Body(new JoiPipe(crsAdviceRequest)) body: CrsAdviceRequest): Promise<CrsAdvice> {
    return this.maps.crsAdvice(key, body.datasets);
  }

  /** What a move would do to every layer; nothing is moved. */
  @Post('rehearsal')
  @HttpCode(200)
  rehearse(@Param('key') key: string, @Body(new JoiPipe(rehearsalRequest)) body: RehearsalRequest): Promise<RehearsalView> {
    return this.maps.rehearse(key, body);
  }

  /** Data outside the project that somebody wants in a map: what it is, and whose. */
  @Post('outside')
  @HttpCode(200)
  outside(@Param('key') key: string, @Body(new JoiPipe(pathRequest)) at: PathRequest): Promise<OutsideView> {
    return this.maps.outside(key, at);
  }

  /** The records of a dataset, to be edited on the map. */
  @Post('editable')
  @HttpCode(200)
  editable(@Param('key') key: string, @Body(new JoiPipe(editableRequest)) body: EditableRequest): Promise<EditableView> {
    return this.maps.editable(key, body);
  }

  /** Saves what was drawn and edited, as one change. */
  @Post('digitised')
  @HttpCode(200)
  digitise(
    @Param('key') key: string,
    @Body(new JoiPipe(digitiseRequest)) body: DigitiseRequest,
    @Req() request: Request,
  ): Promise<DigitisedView> {
    return this.maps.digitise(key, body, whoOf(request));
  }

  /** A page of a map as it stands, drawn to go along in bundles; its bytes as the body. */
  @Put('page')
  @HttpCode(204)
  page(@Param('key') key: string, @Query(new JoiPipe(pageQuery)) query: PageQuery, @Req() request: Request): Promise<void> {
    const without = query.without === '' ? [] : query.without.split('\n');
    return this.maps.keepPage(key, { ...query, without }, request);
  }

  /** A page that was made of a map, its bytes as the body. */
  @Put('print')
  print(
    @Param('key') key: string,
    @Query(new JoiPipe(printQuery)) { place, path: at, title }: PrintQuery,
    @Req() request: Request,
  ): Promise<AppliedView> {
    return this.maps.print(key, { place, path: at }, title, request, whoOf(request));
  }

  /** A new map without layers. */
  @Post()
  @HttpCode(200)
  create(
    @Param('key') key: string,
    @Body(new JoiPipe(newMapRequest)) { title, storedForm }: NewMapRequest,
    @Req() request: Request,
  ): Promise<{ map: string }> {
    return this.maps.create(key, title, storedForm, whoOf(request));
  }

  /** A map of what a table of layers names: shown, or made. */
  @Post('from-table')
  @HttpCode(200)
  fromTable(
    @Param('key') key: string,
    @Body(new JoiPipe(mapFromTableRequest)) body: MapFromTableRequest,
    @Req() request: Request,
  ): Promise<MapFromTableView> {
    return this.maps.fromTable(key, body, whoOf(request));
  }
}

@Controller('api/map-crs')
class MapCrsController {
  constructor(@Inject(MapService) private readonly maps: MapService) {}

  /** Name, unit, area and definition of a CRS by its code. */
  @Get()
  async crs(@Query(new JoiPipe(crsQuery)) { code }: { code: string }): Promise<MapCrsView | undefined> {
    return (await this.maps.crs(code)) ?? undefined;
  }
}

@Module({ controllers: [MapsController, MapCrsController] })
export class MapsModule {}
