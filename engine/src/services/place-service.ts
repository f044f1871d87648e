import type { PathRequest, PlaceView } from '@rootmap/core/contract';
import type { PlaceSetting } from '../places/places.js';
import type { PlaceRepository } from '../repositories/place-repository.js';
import type { ProjectService } from './project-service.js';
import type { Recoveries } from './recoveries.js';

/** Places, and what follows when one of them comes, goes or is called otherwise. */
export class PlaceService {
  constructor(
    private readonly places: PlaceRepository,
    private readonly projects: Pick<ProjectService, 'placesChanged'>,
    private readonly recoveries: Pick<Recoveries, 'look'>,
  ) {}

  get configured(): boolean {
    return this.places.configured;
  }

  view(): PlaceView[] {
    return this.places.view();
  }

  /** The real path that a request names. */
  path(request: PathRequest): string {
    return this.places.path(request);
  }

  async add(setting: PlaceSetting): Promise<void> {
    await this.places.add(setting);
    await this.changed();
  }

  async remove(name: string): Promise<void> {
    await this.places.remove(name);
    await this.changed();
  }

  /** One more name by which files call a place. Gives whether it is kept beyond this start. */
  async call(name: string, driveName: string): Promise<boolean> {
    const isKept = await this.places.call(name, driveName);
    await this.changed();
    return isKept;
  }

  async rename(name: string, driveNames: readonly string[]): Promise<void> {
    await this.places.rename(name, driveNames);
    await this.changed();
  }

  /** What waited for a place goes on, and everything may resolve otherwise. */
  async changed(): Promise<void> {
    await this.recoveries.look();
    await this.projects.placesChanged();
  }
}
