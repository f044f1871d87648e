import { existsSync } from 'node:fs';
import { isProjectFile, parseProjectFile } from '@rootmap/core';
import { basename, dirname, isInside, join, pathFrom, rebase, relative } from '../disk/native-path.js';
import { alsoWithin } from '../disk/bounds.js';
import { realPath } from '../disk/real-path.js';
import { diskSentence } from '../disk/disk-problem.js';
import { MOST_NOTE_BYTES, readdirSync, readFileSync } from '../disk/files.js';
import type { PlaceSetting } from '../places/places.js';
import type { Pool } from '../pool/pool.js';
import type { PlaceRepository } from '../repositories/place-repository.js';
import type { ProjectRepository } from '../repositories/project-repository.js';
import type { ProjectRow } from '../store/tables.js';

/** A drive whose letter has just come cannot always be read at once. */
const LOOKS = 5;

/**
 * A stick that comes back under another letter, or a share at another folder, is known by what is on it: project files of the
 * projects that stood there; where none did, data that layers remember. One folder must fit, and no other.
 */
export class KnownAgain {
  private seen: string | null = null;
  private looksLeft = 0;

  constructor(
    private readonly places: Pick<PlaceRepository, 'all' | 'standsAt'>,
    private readonly known: Pick<ProjectRepository, 'rows' | 'moveRow'>,
    private readonly pool: Pick<Pool, 'run'>,
    /** Folders of the drives that may be looked on. */
    private readonly drives: () => readonly string[],
  ) {}

  /** Looks where drives came or went since the last look. Gives whether a place stands elsewhere now. */
  async look(): Promise<boolean> {
    const drives = this.drives();
    const settings = this.places.all();
    const now = JSON.stringify([drives, settings.map((s) => [s.folder, existsSync(s.folder)])]);
    if (now !== this.seen) this.looksLeft = LOOKS;
    this.seen = now;
    if (this.looksLeft === 0) return false;
    this.looksLeft--;
    let isFound = false;
    for (const setting of settings) if (await this.follow(setting, drives)) isFound = true;
    return isFound;
  }

  private async follow(setting: PlaceSetting, drives: readonly string[]): Promise<boolean> {
    const rows = (await this.known.rows()).filter((row) => isInside(setting.folder, row.root));
    const hasOwn = (folder: string): boolean => rows.some((row) => isProjectOf(row, rebase(row.root, setting.folder, folder)));
    const isHere = existsSync(setting.folder);
    // Something else may have come to where it stood; a place in which nothing of ours was cannot be told from it.
    if (isHere && (rows.length === 0 || hasOwn(setting.folder) || !drives.includes(setting.folder))) return false;
    const taken = this.places.all().map((s) => s.folder);
    // A place never grows to the system's own drive, nor to one on which another place stands.
    const free = drives.filter((d) => !isSystemDrive(d) && !taken.some((f) => f !== setting.folder && isInside(d, f)));
    const candidates = foldersLike(setting.folder, free).filter((folder) => !taken.includes(folder));
    const fitting: string[] = [];
    for (const folder of candidates)
      if (rows.length > 0 ? hasOwn(folder) : await this.hasData({ ...setting, folder })) fitting.push(folder);
    if (fitting.length !== 1) return false;
    await this.places.standsAt(setting.name, fitting[0]!);
    for (const row of rows) {
      const root = rebase(row.root, setting.folder, fitting[0]!);
      if (isProjectOf(row, root)) await this.known.moveRow(row, root);
    }
    return true;
  }

  /** Whether layers of the projects that are there would be sound in it, held against what they remember. */
  private async hasData(setting: PlaceSetting): Promise<boolean> {
    const places = this.places
      .all()
      .map((s) => (s.name === setting.name ? { ...setting, formerly: [...(s.formerly ?? []), s.folder] } : s));
    for (const { root } of await this.known.rows()) {
      if (!existsSync(root)) continue;
      if ((await this.pool.run('remembered-in', { places, root, who: '', place: setting.name })) > 0) return true;
    }
    return false;
  }
}

const isSystemDrive = (drive: string): boolean =>
  drive === '/' || drive.toLowerCase() === `${process.env['SystemDrive'] ?? 'C:'}/`.toLowerCase();

/** The folder on other drives, at the same path or at the end of it: `/media/ana/STICK/gis` is `/media/ana/STICK1/gis`. */
function foldersLike(folder: string, drives: readonly string[]): string[] {
  const own = drives.filter((d) => isInside(d, folder)).sort((a, b) => b.length - a.length)[0];
  const ends = [''];
  for (let at = folder, end = ''; at !== dirname(at); at = dirname(at)) ends.push((end = join(basename(at), end)));
  if (own !== undefined && own !== folder) ends.push(pathFrom(own, folder));
  const found = new Set<string>();
  for (const drive of drives) {
    if (drive === folder || isInside(folder, drive)) continue;
    const wanted = dirname(folder) === folder ? [''] : ends;
    for (const end of wanted.map((e) => join(drive, e)))
      if (end !== folder && relative(folder, end) !== '' && existsSync(end)) found.add(end);
  }
  return [...found];
}

function isProjectOf(row: ProjectRow, root: string): boolean {
  try {
    return alsoWithin(realPath(root), () =>
      readdirSync(root)
        .filter(isProjectFile)
        .some((name) => {
          const read = parseProjectFile(name, readFileSync(join(root, name), 'utf8', MOST_NOTE_BYTES));
          return read.ok && read.value.id === row.id;
        }),
    );
  } catch (error) {
    if (diskSentence(error) === null) throw error;
    return false; // nothing there, or nothing that may be read
  }
}
