import { isMapFile, locateHere, ProblemError, joined } from '@rootmap/core';
import type { DroppedMapRequest, KeepMapRequest, LoneMapView, PathRequest, StrayMapsView } from '@rootmap/core/contract';
import { basename, join, toAddress } from '../disk/native-path.js';
import { runChange } from '../changes/run-change.js';
import type { OpenMaps } from './open-maps.js';
import type { Ports } from './ports.js';

/** Maps that are mended by themselves: those that are in no project, and one file that was dropped on the page. */
export class LoneMapService {
  constructor(
    private readonly ports: Pick<Ports, 'pool' | 'places' | 'changes' | 'publish'>,
    private readonly openMaps: OpenMaps,
  ) {}

  async openMap(at: PathRequest): Promise<LoneMapView> {
    const path = this.ports.places.path(at);
    if (!isMapFile(path)) throw new ProblemError({ code: 'wrong-use', message: `${at.path} is no map file (*.owc.json).` });
    const key = this.openMaps.open(path);
    return { key, at, ...(await this.ports.pool.run('about-map', this.openMaps.base(key, 'web')!)) };
  }

  async stray(signal?: AbortSignal): Promise<StrayMapsView> {
    const { maps, isStopped } = await this.ports.pool.run('stray-maps', { places: this.ports.places.all() }, signal ? { signal } : {});
    return { isStopped, maps: maps.map(({ path, ...map }) => ({ at: this.below(path), ...map })) };
  }

  /** Where a file that was dropped lies: none, one, or several that are equal. */
  async find(dropped: DroppedMapRequest): Promise<PathRequest[]> {
    await this.ports.pool.run('check-map', { name: dropped.name, text: dropped.text });
    const found = await this.ports.pool.run('find-map', { places: this.ports.places.all(), ...dropped });
    return found.map((path) => this.below(path));
  }

  /** Puts a dropped file that lies nowhere within reach into a folder. Throws where one of its name stands there. */
  async keep({ folder, ...dropped }: KeepMapRequest, who: string): Promise<LoneMapView> {
    await this.ports.pool.run('check-map', { name: dropped.name, text: dropped.text });
    const root = this.ports.places.path(folder);
    const path = this.ports.places.path({ place: folder.place, path: joined([folder.path, dropped.name].filter(Boolean)) }, true);
    const write = { kind: 'write' as const, path: join(root, basename(path)), before: null, after: Buffer.from(dropped.text, 'utf8') };
    await runChange({ title: `Keep ${dropped.name}`, kind: 'new', root, who, steps: [write] }, this.ports.changes.run);
    this.ports.publish({ type: 'journal' });
    return this.openMap({ place: folder.place, path: joined([folder.path, dropped.name].filter(Boolean)) });
  }

  private below(path: string): PathRequest {
    const at = locateHere(toAddress(path), this.ports.places.opened());
    if (!at) throw new ProblemError({ code: 'outside-places', path, why: 'it is in none of the places' });
    return { place: at.place, path: joined(at.segments) };
  }
}
