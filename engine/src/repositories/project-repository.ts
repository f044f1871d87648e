import { existsSync } from 'node:fs';
import { locateHere, placeNamed, ProblemError, type Place } from '@rootmap/core';
import type { DataSource } from 'typeorm';
import { isBelow, toAddress } from '../disk/native-path.js';
import type { StepRecord } from '../changes/change.js';
import { Tracks } from '../changes/tracks.js';
import { projectTable, type ProjectRow } from '../store/tables.js';
import type { PlaceRepository } from './place-repository.js';
import { projectKey } from '../project/project-key.js';

/** The projects that this server knows, by their roots. They follow their roots when those move. */
export class ProjectRepository {
  /** Keys of roots that moved, so that an address somebody has open still finds its project. */
  private readonly moved = new Map<string, string>();
  private readonly from = new Map<string, string>();

  constructor(
    private readonly store: DataSource,
    private readonly places: PlaceRepository,
  ) {}

  /** The one last worked on first. */
  rows(): Promise<ProjectRow[]> {
    return this.store.manager.find(projectTable, { order: { openedMs: 'DESC' } });
  }

  async roots(): Promise<string[]> {
    return (await this.rows()).map((r) => r.root);
  }

  async row(key: string): Promise<ProjectRow> {
    const rows = await this.rows();
    const wanted = this.keyNow(key);
    const row = rows.find((r) => projectKey(r.root) === wanted);
    if (!row) throw new ProblemError({ code: 'not-found', what: 'project', id: key });
    return row;
  }

  private keyNow(key: string): string {
    const seen = new Set<string>();
    let now = key;
    while (this.moved.has(now) && !seen.has(now)) {
      seen.add(now);
      now = this.moved.get(now)!;
    }
    return now;
  }

  /** Puts a root on the list. One of the same id whose root is gone is the same project, moved. */
  async note(root: string, id: string, title: string): Promise<void> {
    const place = locateHere(toAddress(root), this.places.opened());
    if (!place) throw new ProblemError({ code: 'outside-places', path: root, why: 'its project file is above the place' });
    const gone = (await this.rows()).find((r) => r.id === id && r.root !== root && this.isVanished(r));
    if (gone) await this.leave(gone, root);
    this.moved.delete(projectKey(root)); // whatever stood there before has gone on elsewhere; this is another folder
    await this.store.manager.upsert(projectTable, { id, root, title, place: place.place, openedMs: Date.now() }, ['id', 'root']);
  }

  async forget(row: ProjectRow): Promise<void> {
    await this.store.manager.delete(projectTable, { id: row.id, root: row.root });
  }

  private async leave(row: ProjectRow, root: string): Promise<void> {
    await this.forget(row);
    this.moved.set(projectKey(row.root), projectKey(root));
    this.from.set(projectKey(root), row.root);
    this.moved.delete(projectKey(root));
  }

  /** The place that a root is in now, whatever it was called when the root was put on the list; null: in none. */
  placeOf(row: ProjectRow): Place | null {
    const places = this.places.opened();
    const at = locateHere(toAddress(row.root), places);
    return placeNamed(places, at?.place ?? row.place) ?? null;
  }

  /** Its place is there, and its root is not. */
  isVanished(row: ProjectRow): boolean {
    return !existsSync(row.root) && this.placeOf(row)?.present === true;
  }

  /** Where a project that is called by this key now stood before it moved, by what was seen since the start. */
  cameFrom(key: string): string | null {
    return this.from.get(key) ?? null;
  }

  /** After a change of our own: roots that it moved are known at their new place. Gives the keys that are no more. */
  async follow(steps: readonly StepRecord[]): Promise<string[]> {
    const left: string[] = [];
    for (const row of await this.rows()) {
      const now = existsSync(row.root) ? row.root : rootAfter(row.root, steps);
      if (now === row.root || !existsSync(now)) continue;
      await this.moveRow(row, now);
      left.push(projectKey(row.root));
    }
    return left;
  }

  async moveRow(row: ProjectRow, root: string): Promise<void> {
    await this.note(root, row.id, row.title);
    if ((await this.rows()).some((r) => r.root === row.root)) await this.leave(row, root);
  }
}

/** Where a root is after the steps of a change: moved, or copied to another disk file by file. */
function rootAfter(root: string, steps: readonly StepRecord[]): string {
  const moved = Tracks.of(steps.filter((s) => s.kind === 'move')).after(root);
  if (moved !== root) return moved;
  for (const s of steps) {
    if (s.kind !== 'copy' || !isBelow(root, s.source)) continue;
    const rest = s.source.slice(root.length);
    if (s.path.endsWith(rest)) return s.path.slice(0, s.path.length - rest.length);
  }
  return root;
}
