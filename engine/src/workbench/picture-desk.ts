import type { PreviewView, StatisticsView, ThumbnailView } from '@rootmap/core/contract';
import type { Pool } from './pool.js';
import type { Workbench } from './workbench.js';

/** Pictures of data, and what stands in its fields: all of it read in a worker of its own, so that nothing else waits for it. */
export class PictureDesk {
  constructor(
    private readonly bench: Workbench,
    private readonly pool: Pool,
  ) {}

  async preview(key: string, id: string, crs: string | null, signal: AbortSignal): Promise<PreviewView> {
    return this.pool.run('preview', { ...(await this.bench.base(key)), id, crs }, { isUrgent: true, signal });
  }

  tile(version: string, z: number, x: number, y: number): Promise<Uint8Array> {
    return this.pool.run('tile', { version, z, x, y }, { isUrgent: true });
  }

  async thumbnails(key: string, ids: readonly string[]): Promise<readonly (ThumbnailView | null)[]> {
    return this.pool.run('thumbnails', { ...(await this.bench.base(key)), ids });
  }

  async statistics(key: string, id: string, signal: AbortSignal): Promise<StatisticsView> {
    return this.pool.run('statistics', { ...(await this.bench.base(key)), id }, { isUrgent: true, signal });
  }
}
