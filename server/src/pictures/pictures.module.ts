import { Body, Controller, Get, Header, HttpCode, Inject, Module, Param, Post, Query, Res, type StreamableFile } from '@nestjs/common';
import type { Response } from 'express';
import Joi from 'joi';
import {
  classesRequest,
  layerPictureRequest,
  identifyRequest,
  recordsRequest,
  rowsRequest,
  shapesRequest,
  type DrawnShape,
  type IdentifiedLayer,
  type IdentifyRequest,
  type RecordsRequest,
  type RecordsView,
  type ShapesRequest,
  type ClassesRequest,
  type ClassesView,
  type LayerPictureRequest,
  type LayerPictureView,
  thumbnailsRequest,
  pageShapesRequest,
  type PageShapesRequest,
  type PreviewView,
  type RowsPage,
  type RowsRequest,
  type StatisticsView,
  type ThumbnailsRequest,
  type ThumbnailView,
  epsgCode,
  objectOf,
} from '@rootmap/core/contract';
import { PictureService } from '@rootmap/engine/workbench';
import { asJson } from '../http/as-json.js';
import { gone } from '../http/gone.js';
import { JoiPipe } from '../http/joi-pipe.js';

interface PreviewQuery {
  readonly dataset: string;
  readonly crs?: string;
}
const dataset = Joi.string().max(8192).required();
const previewQuery = objectOf<PreviewQuery>({ dataset, crs: epsgCode });
const datasetQuery = objectOf<{ dataset: string }>({ dataset });

interface TileAddress {
  readonly version: string;
  readonly z: number;
  readonly x: number;
  readonly y: number;
}
const tileAddress = objectOf<TileAddress>({
  version: Joi.string().hex().length(32).required(),
  z: Joi.number().integer().min(0).max(24).required(),
  x: Joi.number().integer().min(0).required(),
  y: Joi.number().integer().min(0).required(),
});

/** Name of a drawing, as a layer's picture gave it. */
const tileQuery = objectOf<{ d?: string }>({ d: Joi.string().hex().length(16) });

@Controller('api')
class PicturesController {
  constructor(@Inject(PictureService) private readonly pictures: PictureService) {}

  /** Makes tiles of a dataset ready, in its own CRS or another. */
  @Get('projects/:key/preview')
  preview(
    @Param('key') key: string,
    @Query(new JoiPipe(previewQuery)) query: PreviewQuery,
    @Res({ passthrough: true }) response: Response,
  ): Promise<PreviewView> {
    return this.pictures.preview(key, query.dataset, query.crs ?? null, gone(response));
  }

  /** A tile: Mapbox Vector Tile of shapes, PNG of a raster. What a version names never changes. */
  @Get('tiles/:version/:z/:x/:y')
  @Header('Cache-Control', 'private, max-age=31536000, immutable')
  async tile(
    @Param(new JoiPipe(tileAddress)) at: TileAddress,
    @Query(new JoiPipe(tileQuery)) { d }: { d?: string },
    @Res() response: Response,
  ): Promise<void> {
    const bytes = await this.pictures.tile(at.version, at.z, at.x, at.y, d ?? null);
    response.type(bytes[0] === 0x89 ? 'image/png' : 'application/vnd.mapbox-vector-tile').send(Buffer.from(bytes));
  }

  /** Small pictures, in the order that is asked for; null where a dataset has none. */
  @Post('projects/:key/thumbnails')
  @HttpCode(200)
  thumbnails(
    @Param('key') key: string,
    @Body(new JoiPipe(thumbnailsRequest)) body: ThumbnailsRequest,
  ): Promise<readonly (ThumbnailView | null)[]> {
    return this.pictures.thumbnails(key, body.datasets);
  }

  /** What stands in the fields of a dataset. */
  @Get('projects/:key/statistics')
  statistics(
    @Param('key') key: string,
    @Query(new JoiPipe(datasetQuery)) query: { dataset: string },
    @Res({ passthrough: true }) response: Response,
  ): Promise<StatisticsView> {
    return this.pictures.statistics(key, query.dataset, gone(response));
  }

  /** A layer of a map made ready: tiles that tell its records apart by what draws them. */
  @Post('projects/:key/layer-picture')
  @HttpCode(200)
  layer(
    @Param('key') key: string,
    @Body(new JoiPipe(layerPictureRequest)) body: LayerPictureRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<LayerPictureView> {
    return this.pictures.layer(key, body, gone(response));
  }

  /** Breaks of classes over a field, or its values. */
  @Post('projects/:key/classes')
  @HttpCode(200)
  classes(
    @Param('key') key: string,
    @Body(new JoiPipe(classesRequest)) body: ClassesRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<ClassesView> {
    return this.pictures.classes(key, body, gone(response));
  }

  /** What stands at a point of layers that are drawn: shapes near it, the pixel of a raster. */
  @Post('identify')
  @HttpCode(200)
  identify(
    @Body(new JoiPipe(identifyRequest)) body: IdentifyRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<readonly IdentifiedLayer[]> {
    return this.pictures.identify(body, gone(response));
  }

  /** Shapes of records as they are drawn. */
  @Post('shapes')
  @HttpCode(200)
  shapes(
    @Body(new JoiPipe(shapesRequest)) body: ShapesRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<readonly DrawnShape[]> {
    return this.pictures.shapes(body, gone(response));
  }

  /** What a layer draws in a frame on paper: `PageShapes`; null where that is too much, or it is a raster. */
  @Post('page-shapes')
  @HttpCode(200)
  async pageShapes(
    @Body(new JoiPipe(pageShapesRequest)) body: PageShapesRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return asJson(await this.pictures.pageShapes(body, gone(response)));
  }

  /** Single records of a dataset with all their values. */
  @Post('projects/:key/records')
  @HttpCode(200)
  records(
    @Param('key') key: string,
    @Body(new JoiPipe(recordsRequest)) body: RecordsRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<RecordsView> {
    return this.pictures.records(key, body, gone(response));
  }

  /** Part of a dataset's records, in an order and under conditions. */
  @Post('projects/:key/rows')
  @HttpCode(200)
  rows(
    @Param('key') key: string,
    @Body(new JoiPipe(rowsRequest)) body: RowsRequest,
    @Res({ passthrough: true }) response: Response,
  ): Promise<RowsPage> {
    return this.pictures.rows(key, body, gone(response));
  }
}

@Module({ controllers: [PicturesController] })
export class PicturesModule {}
