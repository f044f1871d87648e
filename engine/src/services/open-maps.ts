import { createHash } from 'node:crypto';
import { ProblemError } from '@rootmap/core';
import { dirname } from '../disk/native-path.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { Ports } from './ports.js';

/** Keys of maps that are mended by themselves: they stand where the key of a project would. */
export class OpenMaps {
  /** Real paths by key, of those that somebody has open. */
  private readonly paths = new Map<string, string>();

  constructor(private readonly ports: { readonly places: Pick<Ports['places'], 'all'> }) {}

  open(path: string): string {
    const key = `map-${createHash('sha256').update(path).digest('hex').slice(0, 12)}`;
    this.paths.set(key, path);
    return key;
  }

  /** Null: it is no key of a map. Throws `not-found` for one that no page has open any longer. */
  base(key: string, who: string): TaskBase | null {
    if (!key.startsWith('map-')) return null;
    const map = this.paths.get(key);
    if (map === undefined) throw new ProblemError({ code: 'not-found', what: 'open map', id: key });
    return { places: this.ports.places.all(), root: dirname(map), who, alone: map };
  }
}
