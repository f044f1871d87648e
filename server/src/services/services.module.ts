import { Body, Controller, Get, HttpCode, Inject, Module, Param, Post, Put, Query, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import Joi from 'joi';
import { pictureType } from '@rootmap/core';
import {
  featuresQuery,
  fetchRequest,
  lookEditionsRequest,
  newerRequest,
  type AppliedView,
  type EditionLook,
  type FetchRequest,
  type LookEditionsRequest,
  type NewerDataset,
  type NewerRequest,
  putBackRequest,
  type PutBackRequest,
  type StayedOutView,
  findServiceRequest,
  hostRequest,
  objectOf,
  pictureQuery,
  copyAnewRequest,
  type CopyAnewRequest,
  serviceCopyRequest,
  serviceSignInRequest,
  tileQuery,
  treeRequest,
  type FeaturesQuery,
  type FindServiceRequest,
  type FoundServiceView,
  type HostRequest,
  type JobView,
  type PictureQuery,
  type ServiceCopyRequest,
  type ServiceFeatures,
  serviceLayersRequest,
  type ServiceLayersRequest,
  type ServiceLayerView,
  type ServiceSignInRequest,
  serviceSearchRequest,
  type ServiceSearchRequest,
  type ServiceSearchView,
  type ServicesView,
  type ServiceTreeView,
  type TileQuery,
  type TreeRequest,
} from '@rootmap/core/contract';
import { CollectionService, EditionService, OnlineService, PutBackService } from '@rootmap/engine/workbench';
import { checkHostsEditable, type Config } from '../config.js';
import { CONFIG } from '../workbench/workbench.module.js';
import { gone } from '../http/gone.js';
import { whoOf } from '../http/guard.js';
import { JoiPipe } from '../http/joi-pipe.js';

/** Which are asked; none named: all. */
const askRequest = objectOf<{ urls: readonly string[] }>({ urls: Joi.array().items(Joi.string().max(2048)).max(500).default([]) });
const numbers = (text: string): [number, number, number, number] => text.split(',').map(Number) as [number, number, number, number];

/** Pictures may be kept by the browser for a moment: while a map is moved back and forth. */
const PICTURE_SECONDS = 60;

@Controller('api/projects/:key/services')
class ServicesController {
  constructor(
    @Inject(OnlineService) private readonly online: OnlineService,
    @Inject(CollectionService) private readonly collections: CollectionService,
    @Inject(CONFIG) private readonly config: Config,
  ) {}

  /** Linked services, and those that layers draw on; nothing is asked. */
  @Get()
  view(@Param('key') key: string): Promise<ServicesView> {
    return this.online.view(key);
  }

  /** Asks linked services now. */
  @Post('ask')
  @HttpCode(200)
  ask(@Param('key') key: string, @Body(new JoiPipe(askRequest)) body: { urls: readonly string[] }): Promise<ServicesView> {
    return this.online.ask(key, body.urls);
  }

  /** What stands at an address that a person gives. */
  @Post('find')
  @HttpCode(200)
  find(
    @Param('key') key: string,
    @Body(new JoiPipe(findServiceRequest)) body: FindServiceRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<FoundServiceView> {
    return this.online.find(key, body, gone(response));
  }

  @Post('tree')
  @HttpCode(200)
  tree(
    @Param('key') key: string,
    @Body(new JoiPipe(treeRequest)) body: TreeRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<ServiceTreeView> {
    return this.online.tree(key, body.url, body.anew, gone(response));
  }

  /** What a server finds by words in its catalogues. */
  @Post('search')
  @HttpCode(200)
  search(
    @Param('key') key: string,
    @Body(new JoiPipe(serviceSearchRequest)) body: ServiceSearchRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<ServiceSearchView> {
    return this.online.search(key, body, gone(response));
  }

  /** Who asks is kept sealed, and never told again. */
  @Put('sign-in')
  @HttpCode(204)
  signIn(@Body(new JoiPipe(serviceSignInRequest)) body: ServiceSignInRequest): Promise<void> {
    return this.online.signIn(body);
  }

  /** A host of one's own network may be asked for projects in the place of this one, or not any more. */
  @Put('hosts')
  @HttpCode(200)
  async hosts(@Param('key') key: string, @Body(new JoiPipe(hostRequest)) body: HostRequest): Promise<ServicesView> {
    checkHostsEditable(this.config);
    await this.online.allow(key, body.host, body.allowed);
    return this.online.view(key);
  }

  /** What a map needs to know to draw layers of services; nobody waits for a server. */
  @Post('layers')
  @HttpCode(200)
  layers(@Param('key') key: string, @Body(new JoiPipe(serviceLayersRequest)) body: ServiceLayersRequest): Promise<ServiceLayerView[]> {
    return this.online.layers(key, body.layers);
  }

  @Get('picture')
  async picture(
    @Param('key') key: string,
    @Query(new JoiPipe(pictureQuery)) query: PictureQuery,
    @Res() response: Response,
  ): Promise<void> {
    const { layer, crs, width, height } = query;
    sendPicture(response, await this.online.picture(key, layer, { crs, box: numbers(query.box), width, height }));
  }

  @Get('tile')
  async tile(@Param('key') key: string, @Query(new JoiPipe(tileQuery)) query: TileQuery, @Res() response: Response): Promise<void> {
    const found = await this.online.tile(key, query.layer, query);
    if (found === null) response.status(204).end();
    else sendPicture(response, found);
  }

  /** Shapes in a box in degrees. */
  @Get('features')
  async features(@Param('key') key: string, @Query(new JoiPipe(featuresQuery)) query: FeaturesQuery): Promise<ServiceFeatures> {
    return this.online.features(key, query.layer, numbers(query.box));
  }

  @Post('copy')
  @HttpCode(202)
  copy(
    @Param('key') key: string,
    @Body(new JoiPipe(serviceCopyRequest)) body: ServiceCopyRequest,
    @Req() request: Request,
  ): Promise<JobView> {
    return this.collections.startCopy(key, body, whoOf(request));
  }

  /** A copied collection once more: compared with its table, or in its place. */
  @Post('copy-anew')
  @HttpCode(202)
  copyAnew(
    @Param('key') key: string,
    @Body(new JoiPipe(copyAnewRequest)) body: CopyAnewRequest,
    @Req() request: Request,
  ): Promise<JobView> {
    return this.collections.startCopyAnew(key, body, whoOf(request));
  }
}

function sendPicture(response: Response, bytes: Buffer): void {
  response.setHeader('cache-control', `private, max-age=${PICTURE_SECONDS}`);
  response.type(pictureType(bytes) ?? 'application/octet-stream').send(bytes);
}

/** Data by its address, and newer editions of it. */
@Controller('api/projects/:key/editions')
class EditionsController {
  constructor(
    @Inject(EditionService) private readonly editions: EditionService,
    @Inject(PutBackService) private readonly putBacks: PutBackService,
  ) {}

  /** Fetches a file by its address; it ends as an arrival. */
  @Post('fetch')
  @HttpCode(202)
  fetch(@Param('key') key: string, @Body(new JoiPipe(fetchRequest)) body: FetchRequest): Promise<JobView> {
    return this.editions.startFetch(key, body);
  }

  /** Whether there are newer editions at addresses that are written down. */
  @Post('look')
  @HttpCode(200)
  look(@Param('key') key: string, @Body(new JoiPipe(lookEditionsRequest)) body: LookEditionsRequest): Promise<EditionLook[]> {
    return this.editions.look(key, body.addresses);
  }

  /** What was fetched against what is here. */
  @Post('compare')
  @HttpCode(200)
  compare(@Param('key') key: string, @Body(new JoiPipe(newerRequest)) body: NewerRequest): Promise<readonly NewerDataset[]> {
    return this.editions.compare(key, body);
  }

  /** What was fetched takes the place of what is here. */
  @Post('take-over')
  @HttpCode(200)
  takeOver(@Param('key') key: string, @Body(new JoiPipe(newerRequest)) body: NewerRequest, @Req() request: Request): Promise<AppliedView> {
    return this.editions.takeOver(key, body, whoOf(request));
  }

  /** Data that is written down with an address and is not here. */
  @Get('stayed-out')
  stayedOut(@Param('key') key: string): Promise<StayedOutView[]> {
    return this.putBacks.list(key);
  }

  /** Fetches it, holds it against its checksums, and puts it where it belongs. */
  @Post('put-back')
  @HttpCode(202)
  putBack(@Param('key') key: string, @Body(new JoiPipe(putBackRequest)) body: PutBackRequest, @Req() request: Request): Promise<JobView> {
    return this.putBacks.start(key, body, whoOf(request));
  }
}

@Module({ controllers: [ServicesController, EditionsController] })
export class ServicesModule {}
