import { createHash } from 'node:crypto';
import { basename, dirname, join } from 'node:path';
import { isMapFile, locate, ProblemError } from '@rootmap/core';
import type { DroppedMapRequest, KeepMapRequest, LoneMapView, PathRequest, StrayMapsView } from '@rootmap/core/contract';
import { runChange } from '../changes/run-change.js';
import { toAddress } from '../places/places.js';
import type { TaskBase } from './task-base.js';
import type { Workbench } from './workbench.js';

const keyOf = (path: string): string => `map-${createHash('sha256').update(path).digest('hex').slice(0, 12)}`;

/** Maps that are mended by themselves: those that are in no project, and one file that was dropped on the page. */
export class LoneMaps {
  /** Real paths by key, of those that somebody has open. */
  private readonly open = new Map<string, string>();

  constructor(private readonly bench: Workbench) {}

  /** Throws `not-found` for a key that no page has open any longer. */
  base(key: string, who: string): TaskBase | null {
    if (!key.startsWith('map-')) return null;
    const map = this.open.get(key);
    if (map === undefined) throw new ProblemError({ code: 'not-found', what: 'open map', id: key });
    return { places: this.bench.places.all(), root: dirname(map), who, alone: map };
  }

  async openMap(at: PathRequest): Promise<LoneMapView> {
    const path = this.bench.path(at);
    if (!isMapFile(path)) throw new ProblemError({ code: 'wrong-use', message: `${at.path} is no map file (*.owc.json).` });
    const key = keyOf(path);
    this.open.set(key, path);
    return { key, at, ...(await this.bench.pool.run('about-map', this.base(key, 'web')!)) };
  }

  async stray(signal?: AbortSignal): Promise<StrayMapsView> {
    const { maps, isStopped } = await this.bench.pool.run('stray-maps', { places: this.bench.places.all() }, signal ? { signal } : {});
    return { isStopped, maps: maps.map(({ path, ...map }) => ({ at: this.below(path), ...map })) };
  }

  /** Where a file that was dropped lies: none, one, or several that are equal. */
  async find(dropped: DroppedMapRequest): Promise<PathRequest[]> {
    await this.bench.pool.run('check-map', { name: dropped.name, text: dropped.text });
    const found = await this.bench.pool.run('find-map', { places: this.bench.places.all(), ...dropped });
    return found.map((path) => this.below(path));
  }

  /** Puts a dropped file that lies nowhere within reach into a folder. Throws where one of its name stands there. */
  async keep({ folder, ...dropped }: KeepMapRequest, who: string): Promise<LoneMapView> {
    await this.bench.pool.run('check-map', { name: dropped.name, text: dropped.text });
    const root = this.bench.path(folder);
    const path = this.bench.path({ place: folder.place, path: [folder.path, dropped.name].filter(Boolean).join('/') }, true);
    const write = { kind: 'write' as const, path: join(root, basename(path)), before: null, after: Buffer.from(dropped.text, 'utf8') };
    await runChange({ title: `Keep ${dropped.name}`, kind: 'new', root, who, steps: [write] }, this.bench.run);
    this.bench.publish({ type: 'journal' });
    return this.openMap({ place: folder.place, path: [folder.path, dropped.name].filter(Boolean).join('/') });
  }

  private below(path: string): PathRequest {
    const at = locate(toAddress(path), this.bench.places.opened());
    if (!at) throw new ProblemError({ code: 'outside-places', path, why: 'it is in none of the places' });
    return { place: at.place, path: at.segments.join('/') };
  }
}
