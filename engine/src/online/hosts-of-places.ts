import type { AllowedHosts } from '../wire/public-address.js';

/** A host of one's own network that projects in a place may ask. `place` empty: in every place. */
export interface AllowedHost {
  readonly place: string;
  readonly host: string;
}

export interface HostMemory {
  hosts(): Promise<AllowedHost[]>;
  allow(allowed: AllowedHost): Promise<void>;
  disallow(allowed: AllowedHost): Promise<void>;
  /** Nothing is allowed any more to a place that is gone from the list. */
  forgetPlace(place: string): Promise<void>;
}

export const EVERY_PLACE = '';

/** `host`, `host:port`, and `Place=host` for projects in one place only; commas between. */
export function parseHostList(text: string | undefined): AllowedHost[] {
  return (text ?? '').split(',').flatMap((piece): AllowedHost[] => {
    const at = piece.indexOf('=');
    const host = piece
      .slice(at + 1)
      .trim()
      .toLowerCase();
    return host === '' ? [] : [{ place: at === -1 ? EVERY_PLACE : piece.slice(0, at).trim(), host }];
  });
}

/** Which hosts of one's own network may be asked for projects in which place. */
export class HostsOfPlaces {
  private constructor(
    private readonly memory: HostMemory,
    readonly configured: readonly AllowedHost[],
    private kept: readonly AllowedHost[],
  ) {}

  static async open(memory: HostMemory, configured: readonly AllowedHost[]): Promise<HostsOfPlaces> {
    return new HostsOfPlaces(memory, configured, await memory.hosts());
  }

  /** Those that were allowed in the app, not by the configuration. */
  get own(): readonly AllowedHost[] {
    return this.kept;
  }

  for(place: string): AllowedHosts {
    const all = [...this.configured, ...this.kept];
    return new Set(all.filter((h) => h.place === place || h.place === EVERY_PLACE).map((h) => h.host));
  }

  async allow(place: string, host: string, isAllowed: boolean): Promise<void> {
    const allowed = { place, host: host.trim().toLowerCase() };
    await (isAllowed ? this.memory.allow(allowed) : this.memory.disallow(allowed));
    this.kept = await this.memory.hosts();
  }

  async forgetPlace(place: string): Promise<void> {
    await this.memory.forgetPlace(place);
    this.kept = await this.memory.hosts();
  }
}
