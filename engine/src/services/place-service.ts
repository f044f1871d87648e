import type { DriveView, PathRequest, PlaceHosts, PlaceView } from '@rootmap/core/contract';
import { EVERY_PLACE, type AllowedHost, type HostsOfPlaces } from '../online/hosts-of-places.js';
import { listDrives } from '../places/drives.js';
import type { PlaceSetting } from '../places/places.js';
import { toldPaths } from '../places/told-paths.js';
import type { PlaceRepository } from '../repositories/place-repository.js';
import type { KnownAgain } from './known-again.js';
import type { ProjectService } from './project-service.js';
import type { Recoveries } from './recoveries.js';

/** So that a place that comes or goes is noticed within five seconds. */
const LOOK_MS = 2000;

/** Places, and what follows when one of them comes, goes or is called otherwise. */
export class PlaceService {
  private timer: NodeJS.Timeout | undefined;
  private seen = '';

  constructor(
    private readonly places: PlaceRepository,
    private readonly projects: Pick<ProjectService, 'lookAtRoots' | 'placesChanged'>,
    private readonly recoveries: Pick<Recoveries, 'look'>,
    private readonly knownAgain: Pick<KnownAgain, 'look'>,
    private readonly hosts: HostsOfPlaces,
    private readonly onBug: (error: unknown) => void,
  ) {}

  /** Looks again and again which places, and which folders of projects, are there, since no system says so of all of them. */
  start(): void {
    this.seen = this.state();
    this.timer = setInterval(() => void this.look().catch(this.onBug), LOOK_MS).unref();
  }

  stop(): void {
    clearInterval(this.timer);
  }

  private state = (): string => JSON.stringify(this.places.opened().map((p) => [p.name, p.present, p.readOnly]));

  private async look(): Promise<void> {
    const isFound = await this.knownAgain.look();
    await this.projects.lookAtRoots();
    const now = this.state();
    if (now === this.seen && !isFound) return;
    this.seen = now;
    await this.changed();
  }

  get configured(): boolean {
    return this.places.configured;
  }

  /** Drives and shares of this machine, with their kinds. */
  drives(): Promise<DriveView[]> {
    return listDrives();
  }

  view(): PlaceView[] {
    const { configured, own } = this.hosts;
    const of = (all: readonly AllowedHost[], place: string) => all.filter((h) => h.place === place).map((h) => h.host);
    return this.places.view().map((p) => ({ ...p, hosts: { configured: of(configured, p.name), own: of(own, p.name) } }));
  }

  /** Hosts of one's own network that projects in every place may ask. */
  hostsOfAll(): PlaceHosts {
    const { configured, own } = this.hosts;
    const of = (all: readonly AllowedHost[]) => all.filter((h) => h.place === EVERY_PLACE).map((h) => h.host);
    return { configured: of(configured), own: of(own) };
  }

  /** Whether a host of one's own network may be asked for projects in a place. @param name null: in every place */
  async allowHost(name: string | null, host: string, isAllowed: boolean): Promise<void> {
    if (name !== null) this.places.place(name); // it must be there
    await this.hosts.allow(name ?? EVERY_PLACE, host, isAllowed);
  }

  /** A sentence in which paths are as people know them. */
  told(sentence: string): string {
    return toldPaths(sentence, this.places.opened());
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
    await this.hosts.forgetPlace(name);
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
    this.seen = this.state();
    await this.recoveries.look();
    await this.projects.placesChanged();
  }
}
