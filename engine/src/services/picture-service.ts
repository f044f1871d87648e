import type {
  ClassesRequest,
  ClassesView,
  DrawnShape,
  IdentifiedLayer,
  IdentifyRequest,
  LayerPictureRequest,
  LayerPictureView,
  PageShapesRequest,
  PreviewView,
  RecordsRequest,
  RecordsView,
  RowsPage,
  RowsRequest,
  ShapesRequest,
  StatisticsView,
  ThumbnailView,
} from '@rootmap/core/contract';
import type { Pool } from '../pool/pool.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { Ports } from './ports.js';

/** Pictures of data, and what stands in its fields: all of it read in workers of its own, so that nothing else waits for it. */
export class PictureService {
  constructor(
    private readonly ports: Pick<Ports, 'projects'>,
    /** What a person waits for. */
    private readonly pool: Pool,
    /** What comes by and by. */
    private readonly background: Pool,
  ) {}

  async preview(key: string, id: string, crs: string | null, signal: AbortSignal): Promise<PreviewView> {
    return this.pool.run('preview', { ...(await this.ports.projects.base(key)), id, crs }, { signal });
  }

  tile(version: string, z: number, x: number, y: number, drawing: string | null): Promise<Uint8Array> {
    return this.pool.run('tile', { version, z, x, y, drawing });
  }

  /** A layer of a map, its records told apart by what draws them. */
  async layer(key: string, request: LayerPictureRequest, signal: AbortSignal): Promise<LayerPictureView> {
    return this.pool.run('layer-picture', { ...(await this.ports.projects.base(key)), ...request }, { signal });
  }

  async classes(key: string, request: ClassesRequest, signal: AbortSignal): Promise<ClassesView> {
    return this.background.run('classes', { ...(await this.ports.projects.base(key)), ...request }, { signal });
  }

  async thumbnails(key: string, ids: readonly string[]): Promise<readonly (ThumbnailView | null)[]> {
    this.getReady();
    return this.background.run('thumbnails', { ...(await this.ports.projects.base(key)), ids });
  }

  private isReady = false;
  /** Whoever sees thumbnails looks at a map next: what draws it is loaded before. */
  private getReady(): void {
    if (this.isReady) return;
    this.isReady = true;
    this.pool.run('warm-up', { what: 'pictures' }).catch(() => (this.isReady = false)); // the preview itself tells what is wrong
  }

  /** Reads what stands below a folder once, by and by, so that it is known again wherever it goes. One at a time: others come between. */
  async readAhead(base: TaskBase, folder: string): Promise<void> {
    for (const id of await this.background.run('data-below', { ...base, folder })) await this.background.run('read-ahead', { ...base, id });
  }

  async statistics(key: string, id: string, signal: AbortSignal): Promise<StatisticsView> {
    return this.pool.run('statistics', { ...(await this.ports.projects.base(key)), id }, { signal });
  }

  /** What stands at a point of layers that are drawn. */
  identify(request: IdentifyRequest, signal: AbortSignal): Promise<readonly IdentifiedLayer[]> {
    return this.pool.run('identify', request, { signal });
  }

  shapes(request: ShapesRequest, signal: AbortSignal): Promise<readonly DrawnShape[]> {
    return this.pool.run('shapes', request, { signal });
  }

  /** `PageShapes` as JSON, or `null`. */
  pageShapes(request: PageShapesRequest, signal: AbortSignal): Promise<Uint8Array> {
    return this.pool.run('page-shapes', request, { signal });
  }

  /** Single records by their ids. */
  async records(key: string, request: RecordsRequest, signal: AbortSignal): Promise<RecordsView> {
    return this.pool.run('records', { ...(await this.ports.projects.base(key)), ...request }, { signal });
  }

  /** Part of a dataset's records. */
  async rows(key: string, request: RowsRequest, signal: AbortSignal): Promise<RowsPage> {
    return this.pool.run('rows', { ...(await this.ports.projects.base(key)), request }, { signal });
  }
}
