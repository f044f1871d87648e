import { cpSync, mkdtempSync, rmSync, statSync, writeFileSync, mkdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { joined, placeNamed, writeMapFile, type Place } from '@rootmap/core';
import { dirname, FLAVOUR, fromNative, join } from '../src/disk/native-path.js';
import { openPlace, pathOf, wholeDisks } from '../src/places/places.js';
import { findScope, locationOf, rooted, type RootedScope } from '../src/project/scope.js';

/** A folder on another file system than the temporary folder, where a rename cannot reach. */
export function otherFileSystem(): string {
  if (FLAVOUR === 'win32') return 'E:/'; // the machine that the tests run on has it
  const here = statSync(tmpdir()).dev;
  const other = ['/dev/shm', '/var/tmp', process.cwd()].find((f) => statSync(f, { throwIfNoEntry: false })?.dev !== here);
  if (other === undefined) throw new Error('there is one file system only: set TMPDIR to a folder on another');
  return other;
}

/** A folder for one test, gone afterwards. */
export class TestFolder {
  constructor(within = tmpdir()) {
    this.path = mkdtempSync(join(fromNative(within), 'rootmap-test-'));
  }
  readonly path: string;
  readonly places: Place[] = wholeDisks([]).map(openPlace);

  at(...parts: string[]): string {
    return join(this.path, ...parts);
  }
  /** Copies a shapefile of the open data under another name. */
  shapefile(name: string, to: string): void {
    mkdirSync(dirname(this.at(to)), { recursive: true });
    for (const ending of ['shp', 'shx', 'dbf']) cpSync(`testdata/open/shape-types/${name}.${ending}`, this.at(`${to}.${ending}`));
  }
  map(to: string, hrefs: readonly string[], storedForm: 'relative' | 'absolute' = 'relative'): string {
    const path = this.at(to);
    mkdirSync(dirname(path), { recursive: true });
    const layers = hrefs.map((href, i) => ({ id: `l${i}`, title: href.replace(/^.*\//, ''), format: 'shapefile' as const, href }));
    writeFileSync(path, writeMapFile({ id: 'm', title: to, updated: '2026-01-01T00:00:00Z', crs: null, storedForm, layers }));
    return path;
  }
  /** As a request names it. */
  asked(...parts: string[]): { place: string; path: string } {
    const { place, segments } = locationOf(this.at(...parts), this.places);
    return { place, path: joined(segments) };
  }
  /** The path that a request names. */
  readonly resolve = ({ place, path }: { place: string; path: string }): string => join(pathOf(placeNamed(this.places, place)!), path);
  scope(path: string): RootedScope {
    return rooted(findScope(this.at(path), { places: this.places }));
  }
  remove(): void {
    if (FLAVOUR === 'win32') return; // what stands in for the database there lets go of files late; the run's folder goes as a whole
    rmSync(this.path, { recursive: true, force: true });
  }
}
