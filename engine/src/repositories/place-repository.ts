import { homedir } from 'node:os';
import { statSync } from 'node:fs';
import { parseDriveName, ProblemError, type Place } from '@rootmap/core';
import type { PathRequest, PlaceView } from '@rootmap/core/contract';
import { In, Not, type DataSource } from 'typeorm';
import { fromNative } from '../disk/native-path.js';
import { onDisk } from '../disk/disk-problem.js';
import { confine } from '../places/confine.js';
import { openPlace, pathOf, type PlaceSetting, folderNamed } from '../places/places.js';
import { placeTable } from '../store/remembered.js';

/** Stands alone where a person removed every place, so that none comes back at the next start. */
const NONE = { name: '', n: -1, folder: '', driveNames: '[]', formerly: '[]' };

/** The places: configured for good, or kept in the settings and edited in the app. */
export class PlaceRepository {
  private settings: PlaceSetting[] = [];
  private readonly absentSince = new Map<string, string>();

  private constructor(
    private readonly store: DataSource,
    /** Places come from the configuration and cannot be edited. */
    readonly configured: boolean,
  ) {}

  static async open(store: DataSource, configured: readonly PlaceSetting[]): Promise<PlaceRepository> {
    const book = new PlaceRepository(store, configured.length > 0);
    const rows = await store.manager.find(placeTable, { order: { n: 'ASC' } });
    const kept = rows
      .filter((r) => r.name !== NONE.name)
      .map(({ name, folder, driveNames, formerly }) => ({
        name,
        folder,
        driveNames: JSON.parse(driveNames) as string[],
        formerly: JSON.parse(formerly) as string[],
      }));
    const own = { folder: fromNative(homedir()), name: 'home', driveNames: [] };
    book.settings = configured.length ? [...configured] : rows.length ? kept : [own];
    return book;
  }

  all(): readonly PlaceSetting[] {
    return this.settings;
  }

  opened(): Place[] {
    return this.settings.map(openPlace);
  }

  view(): Omit<PlaceView, 'hosts'>[] {
    return this.settings.map((setting) => {
      const place = openPlace(setting);
      if (place.present) this.absentSince.delete(place.name);
      else if (!this.absentSince.has(place.name)) this.absentSince.set(place.name, new Date().toISOString());
      return {
        name: setting.name,
        folder: pathOf(place),
        driveNames: setting.driveNames,
        present: place.present,
        readOnly: place.readOnly,
        absentSince: this.absentSince.get(setting.name) ?? null,
        formerly: setting.formerly?.[0] ?? null,
      };
    });
  }

  place(name: string): Place {
    const setting = this.settings.find((s) => s.name === name);
    if (!setting) throw new ProblemError({ code: 'not-found', what: 'place', id: name });
    return openPlace(setting);
  }

  /** A path that a request names, inside its place. `mayBeNew`: nothing need stand there. */
  path(request: PathRequest, mayBeNew = false): string {
    return confine(this.place(request.place), request.path, mayBeNew);
  }

  async add(setting: PlaceSetting): Promise<void> {
    if (this.settings.some((s) => s.name === setting.name))
      throw new ProblemError({ code: 'exists', path: `A place named ${setting.name}` });
    const folder = folderNamed(setting.folder);
    if (!onDisk(folder, () => statSync(folder)).isDirectory())
      throw new ProblemError({ code: 'wrong-use', message: `${folder} is a file. A place is a folder: name the folder.` });
    for (const name of setting.driveNames)
      if (!parseDriveName(name))
        throw new ProblemError({ code: 'bad-address', text: name, why: 'it is no drive name (D: or \\\\server\\share)' });
    this.settings = [...this.settings, { ...setting, folder }];
    await this.save();
  }

  async remove(name: string): Promise<void> {
    this.place(name);
    this.settings = this.settings.filter((s) => s.name !== name);
    await this.save();
  }

  /** Another drive name for a place, as when a stick comes back under another letter. */
  async rename(name: string, driveNames: readonly string[]): Promise<void> {
    this.place(name);
    this.settings = this.settings.map((s) => (s.name === name ? { ...s, driveNames } : s));
    if (!this.configured) await this.save();
  }

  /** It is known again at another folder. Kept where places are kept at all. */
  async standsAt(name: string, folder: string): Promise<void> {
    this.place(name);
    const moved = (s: PlaceSetting): PlaceSetting => ({
      ...s,
      folder,
      formerly: [s.folder, ...(s.formerly ?? [])].filter((f) => f !== folder),
    });
    this.settings = this.settings.map((s) => (s.name === name ? moved(s) : s));
    if (!this.configured) await this.save();
  }

  /** One more name by which files call a place. Gives whether it is kept: not where ROOTMAP_PLACES sets the places. */
  async call(name: string, driveName: string): Promise<boolean> {
    this.place(name);
    if (!parseDriveName(driveName))
      throw new ProblemError({ code: 'bad-address', text: driveName, why: 'it is no drive name (D: or \\\\server\\share)' });
    const claimed = this.settings.find((s) => s.driveNames.some((d) => d.toLowerCase() === driveName.toLowerCase()));
    if (claimed) throw new ProblemError({ code: 'exists', path: `A place called ${driveName} (${claimed.name})` });
    await this.rename(name, [...this.settings.find((s) => s.name === name)!.driveNames, driveName]);
    return !this.configured;
  }

  private async save(): Promise<void> {
    if (this.configured)
      throw new ProblemError({ code: 'wrong-use', message: 'Places are set by ROOTMAP_PLACES here. Change them there and start again.' });
    const rows = this.settings.map(({ name, folder, driveNames, formerly = [] }, n) => ({
      name,
      n,
      folder,
      driveNames: JSON.stringify(driveNames),
      formerly: JSON.stringify(formerly),
    }));
    if (rows.length === 0) rows.push(NONE);
    await this.store.manager.upsert(placeTable, rows, ['name']);
    await this.store.manager.delete(placeTable, { name: Not(In(rows.map((r) => r.name))) });
  }
}
