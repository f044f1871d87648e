import type {
  ClassesRequest,
  IdentifyRequest,
  LayerPictureRequest,
  PageShapesRequest,
  RecordsRequest,
  RowsRequest,
  ShapesRequest,
  ThumbnailView,
} from '@rootmap/core/contract';
import { classValues } from '../maps/class-values.js';
import { mapCrs } from '../maps/view-map-doc.js';
import { fieldStatistics } from '../preview/field-statistics.js';
import type { Previews } from '../preview/preview.js';
import { findAnyDataset, findDataset } from '../project/find-dataset.js';
import { readRecords } from '../rows/read-records.js';
import { readRows } from '../rows/read-rows.js';
import { asJson, recordsOf, scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';

/** What draws is loaded by the process that draws, and by no other. */
let previews: Promise<Previews> | null = null;
const previewsOf = (dataFolder: string): Promise<Previews> =>
  (previews ??= import('../preview/preview.js').then((m) => new m.Previews(dataFolder)));

/** Pictures of data, and what stands in its records. */
export const PICTURE_TASKS = {
  preview: async (input: TaskBase & { id: string; crs: string | null }, { dataFolder, progress }: TaskContext) => {
    const found = findDataset(scopeOf(input, true), input.id);
    return (await previewsOf(dataFolder)).prepare(found, input.crs, recordsOf(found, progress));
  },
  tile: async (
    { version, z, x, y, drawing }: { version: string; z: number; x: number; y: number; drawing: string | null },
    { dataFolder }: TaskContext,
  ) => (await previewsOf(dataFolder)).tile(version, z, x, y, drawing),
  'layer-picture': async (input: TaskBase & LayerPictureRequest, { dataFolder, progress }: TaskContext) => {
    const found = findAnyDataset(scopeOf(input, true), input.dataset);
    return (await previewsOf(dataFolder)).prepareLayer(found, input.crs, input.drawing, recordsOf(found, progress));
  },
  thumbnails: async (
    input: TaskBase & { ids: readonly string[] },
    { dataFolder }: TaskContext,
  ): Promise<readonly (ThumbnailView | null)[]> => {
    const scope = scopeOf(input, true);
    const { keptThumbnail } = await import('../preview/kept-thumbnail.js');
    const thumbnails: (ThumbnailView | null)[] = [];
    for (const id of input.ids) thumbnails.push(await keptThumbnail(scope, id, dataFolder));
    return thumbnails;
  },
  'map-picture': async (input: TaskBase & { path: string }, { dataFolder }: TaskContext): Promise<string | null> => {
    const { mapPicture } = await import('../printing/map-picture.js');
    return mapPicture(scopeOf(input, true), input.path, dataFolder);
  },
  'warm-up': async ({ what }: { what: 'pictures' | 'maps' }, { dataFolder }: TaskContext): Promise<void> => {
    if (what === 'pictures') await previewsOf(dataFolder);
    mapCrs('EPSG:4326');
  },
  classes: (input: TaskBase & ClassesRequest, { progress }: TaskContext) => {
    const found = findAnyDataset(scopeOf(input, true), input.dataset);
    return classValues(found, input, recordsOf(found, progress));
  },
  statistics: (input: TaskBase & { id: string }, { progress }: TaskContext) => {
    const found = findDataset(scopeOf(input, true), input.id);
    return fieldStatistics(found, recordsOf(found, progress));
  },
  identify: async (request: IdentifyRequest, { dataFolder }: TaskContext) => (await previewsOf(dataFolder)).identify(request),
  shapes: async (request: ShapesRequest, { dataFolder }: TaskContext) => (await previewsOf(dataFolder)).shapes(request),
  /** As JSON: shapes of a whole page are too many objects for whoever hands them on. */
  'page-shapes': async (request: PageShapesRequest, { dataFolder }: TaskContext) =>
    asJson((await previewsOf(dataFolder)).pageShapes(request)),
  records: (input: TaskBase & RecordsRequest, { dataFolder, progress }: TaskContext) => {
    const found = findAnyDataset(scopeOf(input, true), input.dataset);
    return readRecords(found, input.records, dataFolder, recordsOf(found, progress));
  },
  rows: (input: TaskBase & { request: RowsRequest }, { dataFolder, progress }: TaskContext) => {
    const found = findAnyDataset(scopeOf(input, true), input.request.dataset);
    return readRows(found, input.request, dataFolder, recordsOf(found, progress));
  },
} satisfies TaskTable;
